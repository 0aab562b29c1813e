"""The documentation as a site: sphinx-build -W docs site, then open site/index.html; search works without a network."""

project = "Empuje"
extensions = ["myst_parser"]
exclude_patterns = ["cookbook/*"]
html_theme = "furo"
html_title = "Empuje"
html_show_sourcelink = False
myst_heading_anchors = 3
html_show_copyright = html_show_sphinx = False
suppress_warnings = ["misc.highlighting_failure"]  # blocks of what a command prints are no language
