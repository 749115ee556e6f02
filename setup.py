"""Builds the interface into the package when a wheel is made from a checkout that has none yet."""

import subprocess
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

ROOT = Path(__file__).parent
BUILT = ROOT / "src" / "yoake" / "web" / "index.html"


class WithInterface(build_py):
    """``build_py`` that first runs the front end's own build."""

    def run(self):
        if not self.editable_mode and not BUILT.exists() and (ROOT / "web" / "package.json").exists():
            subprocess.run(["npm", "install", "--no-save", "--no-audit", "--no-fund"], cwd=ROOT / "web", check=True)
            subprocess.run(["npx", "vite", "build"], cwd=ROOT / "web", check=True)
        super().run()


setup(cmdclass={"build_py": WithInterface})
