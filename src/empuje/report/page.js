"use strict";
// Tables are sorted by a press on a head and filtered by what is typed; a link to a derivation opens it; print opens all.
(function () {
  const number = (text) => { const v = parseFloat(text.replace(/\u2212/g, "-")); return Number.isNaN(v) ? null : v; };
  function sort(table, column, head) {
    const up = head.getAttribute("aria-sort") !== "ascending";
    table.querySelectorAll("th").forEach((h) => h.removeAttribute("aria-sort"));
    head.setAttribute("aria-sort", up ? "ascending" : "descending");
    const body = table.tBodies[0], rows = Array.from(body.rows), numeric = head.classList.contains("n");
    const key = (row) => { const t = row.cells[column].textContent.trim(); return numeric ? number(t) : t; };
    rows.map((row, i) => [key(row), i, row]).sort((a, b) => {
      if (a[0] === null || b[0] === null) return a[0] === b[0] ? a[1] - b[1] : a[0] === null ? 1 : -1;
      const d = numeric ? a[0] - b[0] : a[0].localeCompare(b[0], "en", { numeric: true });
      return (up ? d : -d) || a[1] - b[1];
    }).forEach((entry) => body.append(entry[2]));
  }
  document.querySelectorAll("table.sorts").forEach((table) => {
    Array.from(table.tHead.rows[0].cells).forEach((head, column) => {
      head.tabIndex = 0;
      head.title = "sort";
      head.addEventListener("click", () => sort(table, column, head));
      head.addEventListener("keydown", (e) => { if (e.key === "Enter" || e.key === " ") { e.preventDefault(); sort(table, column, head); } });
    });
  });
  document.querySelectorAll("table[data-many]").forEach((table) => {
    const box = document.createElement("div"), label = document.createElement("label"), input = document.createElement("input"), said = document.createElement("span");
    box.className = "filter"; input.type = "search"; said.setAttribute("aria-live", "polite");
    label.append("Rows with ", input); box.append(label, " ", said); table.before(box);
    input.addEventListener("input", () => {
      const words = input.value.toLowerCase().split(/\s+/).filter(Boolean);
      let shown = 0;
      Array.from(table.tBodies[0].rows).forEach((row) => {
        const text = row.textContent.toLowerCase(), there = words.every((w) => text.includes(w));
        row.hidden = !there; shown += there ? 1 : 0;
      });
      said.textContent = words.length ? `${shown} of ${table.tBodies[0].rows.length}` : "";
    });
  });
  const open = () => { const at = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1))); if (at && at.tagName === "DETAILS") { at.open = true; at.scrollIntoView(); } };
  window.addEventListener("hashchange", open);
  open();
  let closed = [];
  window.addEventListener("beforeprint", () => { closed = Array.from(document.querySelectorAll("details:not([open])")); closed.forEach((d) => { d.open = true; }); });
  window.addEventListener("afterprint", () => closed.forEach((d) => { d.open = false; }));
})();
