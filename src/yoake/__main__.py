"""``python -m yoake``."""

from yoake.start import main

main()
