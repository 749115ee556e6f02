"""Following JavaScript and TypeScript code without running it: what names come to, as far as the text says."""
