"use strict";
// The page says everything without this; it finds, sorts and groups failures, and opens columns.
(() => {
  const make = (tag, text, props) => Object.assign(document.createElement(tag), text === undefined ? {} : { textContent: text }, props);
  const step = 200; // rows that are shown at once

  // A link to a column opens it.
  const reveal = () => {
    const target = location.hash && document.getElementById(decodeURIComponent(location.hash.slice(1)));
    const details = target && target.closest("details");
    if (details && !details.open) {
      details.open = true;
      target.scrollIntoView();
    }
  };
  addEventListener("hashchange", reveal);

  // Columns: found by name, opened together.
  for (const list of document.querySelectorAll(".columns")) {
    const all = [...list.children];
    const bar = make("div", undefined, { className: "controls" });
    const label = make("label", "find a column");
    const search = make("input", undefined, { type: "search" });
    label.append(search);
    const toggle = make("button", "open all", { type: "button" });
    search.addEventListener("input", () => {
      const want = search.value.trim().toLowerCase();
      for (const d of all) d.hidden = !d.querySelector(".name").textContent.toLowerCase().includes(want);
    });
    toggle.addEventListener("click", () => {
      const open = toggle.textContent === "open all";
      for (const d of all) if (!d.hidden) d.open = open;
      toggle.textContent = open ? "close all" : "open all";
    });
    bar.append(label, toggle);
    list.before(bar);
  }

  for (const section of document.querySelectorAll(".failures")) failures(section);

  function failures(section) {
    const table = section.querySelector("table");
    const all = [];
    for (const body of [...table.tBodies]) {
      const column = body.rows[0].cells[0].textContent.trim();
      for (const row of [...body.rows].slice(1)) {
        const c = row.cells;
        const one = { column, row: c[0].textContent, line: c[1].textContent, value: c[2].textContent, reason: c[3].textContent, detail: c[4].textContent.trim() };
        one.find = (column + "\n" + one.value + "\n" + one.reason + "\n" + one.detail + "\n" + one.row).toLowerCase();
        all.push(one);
      }
      body.remove();
    }
    const head = table.tHead.rows[0];
    head.prepend(make("th", "column", { scope: "col" }));
    const times = make("th", "cells", { scope: "col", className: "n", hidden: true });
    head.prepend(times);
    const body = make("tbody");
    table.append(body);
    section.classList.add("many");

    const bar = make("div", undefined, { className: "controls" });
    const choice = (name, list, first) => {
      const label = make("label", name);
      const select = make("select");
      if (first) select.append(make("option", first, { value: "" }));
      for (const text of list) select.append(make("option", text, { value: text }));
      label.append(select);
      bar.append(label);
      select.addEventListener("change", draw);
      return select;
    };
    const distinct = (key) => [...new Set(all.map((f) => f[key]))];
    const column = choice("column", distinct("column"), "all columns");
    const reason = choice("reason", distinct("reason").sort(), "all reasons");
    const searchLabel = make("label", "find text");
    const search = make("input", undefined, { type: "search" });
    searchLabel.append(search);
    bar.append(searchLabel);
    search.addEventListener("input", draw);
    const order = choice("in the order of", ["column", "row", "value", "reason"]);
    const groupLabel = make("label", undefined, { className: "tick" });
    const group = make("input", undefined, { type: "checkbox" });
    groupLabel.append(group, "equal texts once");
    bar.append(groupLabel);
    group.addEventListener("change", draw);
    const copy = make("button", "copy as CSV", { type: "button" });
    bar.append(copy);
    const status = make("p", undefined, { className: "said" });
    status.setAttribute("role", "status");
    section.querySelector(".wide").before(bar, status);
    const more = make("button", "", { type: "button", className: "more" });
    section.querySelector(".wide").after(more);

    let shown = []; // what the filter leaves
    let drawn = 0;

    function chosen() {
      const want = search.value.trim().toLowerCase();
      let list = all.filter((f) => (!column.value || f.column === column.value) && (!reason.value || f.reason === reason.value) && (!want || f.find.includes(want)));
      if (group.checked) {
        const groups = new Map();
        for (const f of list) {
          const key = f.column + "\0" + f.reason + "\0" + f.value;
          const g = groups.get(key);
          if (g) g.cells++;
          else groups.set(key, { ...f, cells: 1 });
        }
        list = [...groups.values()];
      }
      const by = order.value;
      if (by === "row") list = list.slice().sort((a, b) => a.row - b.row);
      else if (by !== "column") list = list.slice().sort((a, b) => (a[by] < b[by] ? -1 : a[by] > b[by] ? 1 : a.row - b.row));
      if (group.checked && by === "column") list.sort((a, b) => b.cells - a.cells);
      return list;
    }

    function draw() {
      shown = chosen();
      drawn = 0;
      body.textContent = "";
      times.hidden = !group.checked;
      const cells = group.checked ? shown.reduce((n, f) => n + f.cells, 0) : shown.length;
      status.textContent = cells === all.length && !group.checked ? "" : `${cells} of ${all.length} cells` + (group.checked ? `, ${shown.length} different texts` : "");
      add(step);
    }

    function add(n) {
      const part = document.createDocumentFragment();
      for (const f of shown.slice(drawn, drawn + n)) {
        const row = make("tr");
        const number = make("td", group.checked ? String(f.cells) : "", { className: "n", hidden: !group.checked });
        row.append(number, make("th", f.column, { scope: "row" }));
        for (const [i, text] of [f.row, f.line, f.value, f.reason, f.detail].entries()) row.append(make("td", text, { className: i < 2 ? "n" : "" }));
        part.append(row);
      }
      drawn = Math.min(shown.length, drawn + n);
      body.append(part);
      more.hidden = drawn === shown.length;
      more.textContent = `show more: ${shown.length - drawn} are left`;
    }
    more.addEventListener("click", () => add(step * 5));

    copy.addEventListener("click", async () => {
      // A sign that would make a spreadsheet run a cell as a formula gets an apostrophe before it.
      const cell = (s) => {
        s = String(s);
        if (/^[=+\-@]/.test(s) && !/^-?[0-9.]+$/.test(s)) s = "'" + s;
        return /[",\r\n]/.test(s) ? '"' + s.replaceAll('"', '""') + '"' : s;
      };
      const names = ["row", "line", "column", "value", "reason", "detail"];
      if (group.checked) names.unshift("cells");
      const text = [names, ...shown.map((f) => names.map((n) => f[n]))].map((r) => r.map(cell).join(",")).join("\r\n") + "\r\n";
      section.querySelector("textarea")?.remove();
      try {
        await navigator.clipboard.writeText(text);
        copy.textContent = `copied ${shown.length} rows`;
      } catch {
        const area = make("textarea", text, { readOnly: true });
        area.setAttribute("aria-label", "the rows as CSV, to copy");
        status.after(area);
        area.focus();
        area.select();
      }
    });
    addEventListener("beforeprint", () => add(Infinity));
    draw();
  }

  addEventListener("beforeprint", () => {
    for (const d of document.querySelectorAll("details")) d.open = true;
  });
  reveal();
})();
