"""The join: usages × timelines × rules → findings, checks and windows."""
