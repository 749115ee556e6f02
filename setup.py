"""Builds the interface and the packed knowledge into the package when a wheel is made from a checkout that has none yet."""

import os
import subprocess
import sys
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

ROOT = Path(__file__).parent
PACK = ROOT / "src" / "yoake" / "knowledge.pack"
BUILT = ROOT / "src" / "yoake" / "web" / "index.html"


class WithInterface(build_py):
    """``build_py`` that first runs what the package is made of."""

    def run(self):
        if not self.editable_mode and not BUILT.exists() and (ROOT / "web" / "package.json").exists():
            subprocess.run(["npm", "install", "--no-save", "--no-audit", "--no-fund"], cwd=ROOT / "web", check=True)
            subprocess.run(["npx", "vite", "build"], cwd=ROOT / "web", check=True)
        if not self.editable_mode and not PACK.exists():
            environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
            # Without the libraries at hand there is no pack: everything is then read from the files, more slowly.
            subprocess.run([sys.executable, "-m", "yoake.runner.knowledge_pack"], cwd=ROOT, env=environment, check=False)
        super().run()


setup(cmdclass={"build_py": WithInterface})
