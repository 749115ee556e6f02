from distutils.core import setup

setup(
    name="freight-scales",
    version="0.3",
    packages=["scales"],
    classifiers=["Programming Language :: Python :: 2.7"],
)
