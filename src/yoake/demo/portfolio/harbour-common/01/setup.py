from setuptools import setup

requires = ["pytz"]

setup(
    name="harbour-common",
    version="3.4.0",
    packages=["harbour_common"],
    install_requires=requires,
    python_requires=">=3.6",
    classifiers=["Programming Language :: Python :: 3.6", "Programming Language :: Python :: 3.8"],
)
