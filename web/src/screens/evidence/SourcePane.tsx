/** The source as it was scanned, with its places marked and the reason below the line. */
import { javascript } from "@codemirror/lang-javascript";
import { python } from "@codemirror/lang-python";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { EditorState, RangeSetBuilder } from "@codemirror/state";
import { Decoration, type DecorationSet, drawSelection, EditorView, lineNumbers, WidgetType } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { sourceQuery } from "../../api/queries";
import type { Finding } from "../../api/types";
import { charactersBefore } from "../../lib/columns";

const words = HighlightStyle.define([
  { tag: [tags.keyword, tags.operatorKeyword, tags.modifier, tags.self], color: "var(--syntax-word)" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--syntax-text)" },
  { tag: tags.comment, color: "var(--syntax-note)", fontStyle: "italic" },
]);

const look = EditorView.theme({
  "&": { backgroundColor: "transparent", color: "var(--ink)", height: "100%", fontSize: "12.9px" },
  ".cm-scroller": { fontFamily: '"JetBrains Mono", monospace', lineHeight: "21px", overflow: "auto" },
  ".cm-gutters": { backgroundColor: "transparent", color: "var(--ink2)", border: "none", paddingLeft: "8px" },
  ".cm-lineNumbers .cm-gutterElement": { paddingRight: "14px" },
  "&.cm-focused": { outline: "none" },
  ".cm-place-line": { backgroundColor: "var(--mark)" },
  ".cm-place": { textDecoration: "underline 2px var(--rose)", textUnderlineOffset: "4px" },
  ".cm-place-quiet": { textDecoration: "underline 2px dotted var(--ink2)", textUnderlineOffset: "4px" },
});

class Reason extends WidgetType {
  readonly text: string;

  constructor(text: string) {
    super();
    this.text = text;
  }

  override eq(other: Reason): boolean {
    return other.text === this.text;
  }

  toDOM(): HTMLElement {
    const outer = document.createElement("div");
    outer.className = "cm-reason-row";
    const box = outer.appendChild(document.createElement("div"));
    box.className = "cm-reason";
    box.textContent = this.text;
    return outer;
  }
}

type Props = { slug: string; file: string; scannedAt: string; finding: Finding | null; line: number };

export default function SourcePane({ slug, file, scannedAt, finding, line }: Props) {
  const source = useQuery(sourceQuery(slug, file, scannedAt));
  const host = useRef<HTMLDivElement>(null);
  const body = source.data?.text;
  useEffect(() => {
    if (!host.current || body === undefined) return;
    const view = new EditorView({ parent: host.current, state: makeState(body, file, finding, line) });
    const at = view.state.doc.line(Math.min(Math.max(line, 1), view.state.doc.lines));
    view.dispatch({ effects: EditorView.scrollIntoView(at.from, { y: "center" }) });
    return () => view.destroy();
  }, [body, file, finding, line]);
  if (source.isError) return <p className="quiet p-5">{source.error.message}</p>;
  if (source.isPending) return <p className="quiet p-5">Reading {file} …</p>;
  return (
    <>
      {source.data.note && <p className="quiet border-b px-5 py-1.5 text-[13px] hair">{source.data.note}</p>}
      <div ref={host} className="min-h-0 grow" />
    </>
  );
}

function makeState(text: string, file: string, finding: Finding | null, line: number): EditorState {
  const language = /\.pyw?$/.test(file) ? [python()] : /\.[cm]?[jt]sx?$/.test(file) ? [javascript({ jsx: true, typescript: true })] : [];
  const state = EditorState.create({ doc: text });
  return EditorState.create({
    doc: text,
    extensions: [
      lineNumbers(),
      drawSelection(),
      EditorView.lineWrapping,
      EditorState.readOnly.of(true),
      EditorView.contentAttributes.of({ "aria-label": `Source of ${file}`, "aria-readonly": "true" }),
      syntaxHighlighting(words),
      look,
      ...language,
      EditorView.decorations.of(decorate(state, file, finding, line)),
    ],
  });
}

/** One decoration set: line, mark and reason of each place, in the order of the text. */
function decorate(state: EditorState, file: string, finding: Finding | null, current: number): DecorationSet {
  const builder = new RangeSetBuilder<Decoration>();
  const places = (finding?.places ?? []).filter((p) => p.file === file && p.line <= state.doc.lines).sort((a, b) => a.line - b.line || a.column - b.column);
  let lastLine = 0;
  places.forEach((place, i) => {
    const at = state.doc.line(Math.max(place.line, 1));
    if (place.line !== lastLine) builder.add(at.from, at.from, Decoration.line({ class: "cm-place-line" }));
    lastLine = place.line;
    const [from, to] = [at.from + charactersBefore(at.text, place.column), at.from + charactersBefore(at.text, place.end_column)];
    if (to > from) builder.add(from, to, Decoration.mark({ class: place.guarded ? "cm-place-quiet" : "cm-place" }));
    const next = places[i + 1];
    if (place.line === current && next?.line !== place.line && finding) {
      builder.add(at.to, at.to, Decoration.widget({ widget: new Reason(place.guarded ? `${finding.message} Here: ${place.guarded}.` : finding.message), block: true, side: 1 }));
    }
  });
  return builder.finish();
}
