"""Asks pip’s own session for pages of its index and for metadata, many at a time. Run by a Python that has pip; nothing is installed.

Reads one JSON object a line: {"list": NAME} or {"metadata": ADDRESS}. Answers each with one JSON line, as they come:
{"list": NAME, "files": [{"filename", "requires-python", "yanked", "upload-time", "url", "lines"}]} or
{"metadata": ADDRESS, "text": TEXT}; “error” instead of what could not be had. “lines”: those of the Python lines given as arguments for which a
wheel is built; null for what is no wheel.
"""

import concurrent.futures
import json
import sys
import zipfile

from pip._internal.commands import create_command
from pip._internal.index.collector import LinkCollector
from pip._internal.models.target_python import TargetPython
from pip._internal.models.wheel import Wheel
from pip._internal.network.lazy_wheel import LazyZipOverHTTP

AT_ONCE = 6


def tags_of(line):
    """Tags of wheels that a Python line takes on this machine."""
    target = TargetPython(py_version_info=tuple(int(part) for part in line.split(".")))
    return set(getattr(target, "get_sorted_tags", getattr(target, "get_tags", None))())


def built_for(filename, tags):
    """Python lines that take a wheel; None for what is no wheel."""
    if not filename.endswith(".whl"):
        return None
    try:
        wheel = Wheel(filename)
    except Exception:  # names of wheels that pip itself refuses come with errors of many classes
        return []
    return [line for line, held in tags.items() if wheel.supported(held)]


def pages(collector, name):
    """Answers of the indexes that are set up."""
    for source in collector.collect_sources(name, candidates_from_page=lambda link: [link]).index_urls:
        if source is not None and source.link.scheme != "file":
            answer = collector.fetch_response(source.link)
            if answer is not None:
                yield answer


def listed(collector, name, tags):
    """Files of a project, those of the first index that has any."""
    for answer in pages(collector, name):
        if "json" not in answer.content_type:
            continue
        files = json.loads(answer.content)["files"]
        if files:
            keys = ("filename", "requires-python", "yanked", "upload-time", "url")
            return [{**{key: f.get(key) for key in keys}, "lines": built_for(f["filename"], tags)} for f in files]
    raise LookupError("no index that is set up here lists it")


def metadata(session, address):
    """The metadata of a wheel: from the file beside it, else from the end of the wheel."""
    answer = session.get(address + ".metadata")
    if answer.status_code == 200:
        return answer.text
    with zipfile.ZipFile(LazyZipOverHTTP(address, session)) as archive:
        name = next(n for n in archive.namelist() if n.endswith(".dist-info/METADATA"))
        return archive.read(name).decode("utf-8", "replace")


def main():
    """Answer every line of the standard input."""
    command = create_command("index")
    options, _ = command.parse_args(["versions", "x"])
    with command.main_context():
        session = command._build_session(options)
        collector = LinkCollector.create(session, options=options, suppress_no_index=True)
        tags = {line: tags_of(line) for line in sys.argv[1:]}

        def answer(asked):
            try:
                if "list" in asked:
                    return {**asked, "files": listed(collector, asked["list"], tags)}
                return {**asked, "text": metadata(session, asked["metadata"])}
            except Exception as error:  # one that cannot be had is told, and the others go on
                return {**asked, "error": str(error)[:200] or type(error).__name__}

        with concurrent.futures.ThreadPoolExecutor(AT_ONCE) as pool:
            for done in pool.map(answer, map(json.loads, sys.stdin)):
                print(json.dumps(done), flush=True)


main()
