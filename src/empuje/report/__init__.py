"""A report of a model: everything a checker reads, in the order in which it is read.

>>> report = make_report(Study.read("packing-house.toml"), ("basis", "limits"))        # doctest: +SKIP
>>> Path("report.html").write_text(as_html(report))                                     # doctest: +SKIP
"""
