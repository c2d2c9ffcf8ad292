"use strict";
// The cross table of the page: it unpacks the groups that the page carries, adds them up by the
// labels that are chosen, and draws a table. Figures are whole numbers of the measure's smallest
// unit (BigInt), never binary floats. The choice stands in the address, behind #.

const cube = {
  // unpack reads what the page carries: a length, a description (JSON), and behind it for each
  // label the codes of all groups, then their rows, and for each measure how many of these have
  // a number, and the sums.
  async unpack(text) {
    const packed = Uint8Array.from(atob(text.replaceAll("-", "+").replaceAll("_", "/")), (c) => c.charCodeAt(0));
    const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"));
    const bytes = new Uint8Array(await new Response(stream).arrayBuffer());
    const length = new DataView(bytes.buffer).getUint32(0, true);
    const about = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length)));
    let at = 4 + length;
    // A number is written seven bits a byte, the lowest first; the eighth says that more follow.
    const next = () => {
      let n = 0, weight = 1, b;
      do {
        b = bytes[at++];
        n += (b & 127) * weight;
        weight *= 128;
      } while (b > 127);
      return n;
    };
    // Sums may be longer than a number holds exactly; the lowest bit is the sign.
    const long = () => {
      let n = 0n, shift = 0n, b;
      do {
        b = bytes[at++];
        n |= BigInt(b & 127) << shift;
        shift += 7n;
      } while (b > 127);
      return n & 1n ? -(n >> 1n) : n >> 1n;
    };
    const list = (read) => Array.from({ length: about.groups }, read);
    const codes = about.labels.map(() => Uint32Array.from(list(next)));
    const rows = list(next);
    const measures = about.measures.map(() => ({ filled: list(next), sums: list(long) }));
    return { ...about, codes, rows, of: measures };
  },

  // add adds groups up: a tree by the row labels, each line with a cell for each value across.
  add(data, choice) {
    const by = choice.rows.map((name) => data.labels.findIndex((l) => l.name === name));
    const across = data.labels.findIndex((l) => l.name === choice.across);
    const of = data.measures.findIndex((m) => m.name === choice.of);
    const filters = Object.entries(choice.only).map(([name, values]) => {
      const i = data.labels.findIndex((l) => l.name === name);
      return { codes: data.codes[i], keep: new Set(values.map((v) => data.labels[i].values.indexOf(v))) };
    });
    const line = (code) => ({ code, all: cube.cell(), cells: new Map(), below: new Map() });
    const root = line(-1), columns = new Set();
    for (let g = 0; g < data.groups; g++) {
      if (filters.some((f) => !f.keep.has(f.codes[g]))) continue;
      const column = across < 0 ? -1 : data.codes[across][g];
      if (across >= 0) columns.add(column);
      let l = root;
      for (let depth = 0; ; depth++) {
        cube.put(l.all, data, of, g);
        if (across >= 0) {
          if (!l.cells.has(column)) l.cells.set(column, cube.cell());
          cube.put(l.cells.get(column), data, of, g);
        }
        if (depth === by.length) break;
        const code = data.codes[by[depth]][g];
        if (!l.below.has(code)) l.below.set(code, line(code));
        l = l.below.get(code);
      }
    }
    const order = (l) => {
      l.list = [...l.below.values()].sort((a, b) => a.code - b.code);
      if (choice.sort === "figure") {
        const figure = (x) => (choice.show === "count" ? BigInt(x.all.rows) : x.all.sum);
        l.list.sort((a, b) => (figure(a) < figure(b) ? 1 : figure(a) > figure(b) ? -1 : a.code - b.code));
      }
      l.list.forEach(order);
    };
    order(root);
    return { root, by, across, of, columns: [...columns].sort((a, b) => a - b) };
  },

  cell: () => ({ rows: 0, filled: 0, sum: 0n }),

  put(cell, data, of, g) {
    cell.rows += data.rows[g];
    if (of < 0) return;
    cell.filled += data.of[of].filled[g];
    cell.sum += data.of[of].sums[g];
  },

  // figure is what a cell shows, with all its digits; "" where there is no value.
  figure(cell, root, measure, show) {
    if (show === "count") return String(cell ? cell.rows : 0);
    if (!cell || cell.filled === 0) return "";
    switch (show) {
      case "mean":
        return cube.divide(cell.sum, BigInt(cell.filled), measure.scale, 15);
      case "share":
        return root.all.sum === 0n ? "" : cube.divide(cell.sum * 100n, root.all.sum, 0, 15);
    }
    return cube.decimal(cell.sum, measure.scale, measure.decimals < 0);
  },

  // decimal writes a whole number of the smallest unit, with its point.
  decimal(n, scale, short) {
    const digits = (n < 0n ? -n : n).toString().padStart(scale + 1, "0");
    const whole = digits.slice(0, digits.length - scale);
    let rest = scale ? digits.slice(-scale) : "";
    if (short) rest = rest.replace(/0+$/, "");
    return (n < 0n && /[1-9]/.test(digits) ? "-" : "") + whole + (rest ? "." + rest : "");
  },

  // divide divides a / b, where a has so many places more than b, to so many places, rounded half
  // away from zero, without zeros at the end.
  divide(a, b, scale, places) {
    const negative = a < 0n !== b < 0n;
    if (a < 0n) a = -a;
    if (b < 0n) b = -b;
    a *= 10n ** BigInt(places);
    b *= 10n ** BigInt(scale);
    let q = a / b;
    if (2n * (a % b) >= b) q++;
    return cube.decimal(negative ? -q : q, places, true);
  },

  // shown is a figure as a person reads it: in groups of three, and a long quotient rounded.
  shown(text, show, scale) {
    if (text === "") return "–";
    const places = show === "share" ? 1 : show === "mean" ? scale + 2 : -1;
    let [whole, rest = ""] = text.split(".");
    if (places >= 0) {
      const [n] = [BigInt(whole.replace("-", "") + rest.padEnd(15, "0"))];
      const cut = 10n ** BigInt(15 - Math.min(places, 15));
      const rounded = cube.decimal((n + cut / 2n) / cut, Math.min(places, 15), false);
      whole = (text[0] === "-" && /[1-9]/.test(rounded) ? "-" : "") + rounded.split(".")[0];
      rest = rounded.split(".")[1] || "";
    }
    whole = whole.replace(/\B(?=(\d{3})+$)/g, ",");
    return whole + (rest ? "." + rest : "") + (show === "share" ? " %" : "");
  },
};

// choices reads and writes the address.
const choices = {
  read(hash, data) {
    const q = new URLSearchParams(hash.replace(/^#/, ""));
    const label = (name) => data.labels.some((l) => l.name === name);
    const choice = { ...data.first, only: {}, fold: new Set(q.getAll("fold")) };
    if (q.has("rows")) choice.rows = q.getAll("rows").filter((n, i, all) => label(n) && all.indexOf(n) === i).slice(0, 3);
    if (q.has("across")) choice.across = label(q.get("across")) ? q.get("across") : "";
    if (choice.rows.includes(choice.across)) choice.across = "";
    if (data.measures.some((m) => m.name === q.get("of"))) choice.of = q.get("of");
    if (["sum", "count", "mean", "share"].includes(q.get("show"))) choice.show = q.get("show");
    if (["label", "figure"].includes(q.get("sort"))) choice.sort = q.get("sort");
    for (const l of data.labels) {
      const values = q.getAll("only:" + l.name).filter((v) => l.values.includes(v));
      if (values.length) choice.only[l.name] = values;
    }
    return choice;
  },

  write(choice) {
    const q = new URLSearchParams();
    if (choice.rows.length) choice.rows.forEach((n) => q.append("rows", n));
    else q.append("rows", "");
    q.append("across", choice.across);
    q.append("of", choice.of);
    q.append("show", choice.show);
    q.append("sort", choice.sort);
    for (const [name, values] of Object.entries(choice.only)) values.forEach((v) => q.append("only:" + name, v));
    choice.fold.forEach((f) => q.append("fold", f));
    return "#" + q.toString();
  },
};

// view draws the controls and the table.
const view = {
  mostLines: 1000,
  mostColumns: 120,

  element(tag, attributes = {}, ...inside) {
    const e = document.createElement(tag);
    for (const [name, value] of Object.entries(attributes)) {
      if (name.startsWith("on")) e.addEventListener(name.slice(2), value);
      else if (value !== false && value !== null) e.setAttribute(name, value === true ? "" : value);
    }
    e.append(...inside);
    return e;
  },

  select(name, text, options, chosen, change) {
    const s = view.element("select", { id: "choose-" + name, onchange: (e) => change(e.target.value) });
    for (const [value, title] of options) s.append(view.element("option", { value, selected: value === chosen }, title));
    return view.element("label", { class: "choice" }, view.element("span", {}, text), s);
  },

  controls(data, choice, update) {
    const names = data.labels.map((l) => [l.name, l.title]);
    const box = view.element("div", { class: "choices" });
    const rows = (depth) => (value) =>
      update((c) => {
        c.rows = [...c.rows.slice(0, depth), value, ...c.rows.slice(depth + 1)].filter((n, i, all) => n && all.indexOf(n) === i);
        if (c.rows.includes(c.across)) c.across = "";
        c.fold.clear();
      });
    for (let depth = 0; depth <= Math.min(choice.rows.length, 2); depth++) {
      const free = names.filter(([n]) => n === choice.rows[depth] || !choice.rows.includes(n));
      box.append(view.select("rows" + depth, depth ? "then by" : "Rows by", [["", "–"], ...free], choice.rows[depth] || "", rows(depth)));
    }
    const across = names.filter(([n]) => !choice.rows.includes(n));
    box.append(view.select("across", "Across", [["", "–"], ...across], choice.across, (v) => update((c) => { c.across = v; })));
    if (data.measures.length) {
      box.append(view.select("of", "Figures of", data.measures.map((m) => [m.name, m.name]), choice.of, (v) => update((c) => { c.of = v; })));
    }
    const shows = [["sum", "sum"], ["share", "share of the total"], ["mean", "mean of a row"], ["count", "number of rows"]];
    box.append(view.select("show", "as", data.measures.length ? shows : shows.slice(3), choice.show, (v) => update((c) => { c.show = v; })));
    box.append(view.select("sort", "Sorted by", [["label", "label"], ["figure", "figure, largest first"]], choice.sort,
      (v) => update((c) => { c.sort = v; })));
    return box;
  },

  filters(data, choice, update) {
    const box = view.element("div", { class: "filters" });
    for (const l of data.labels) {
      const kept = choice.only[l.name] || [];
      const list = view.element("div", { class: "values" });
      const draw = (wanted) => {
        list.replaceChildren();
        let n = 0;
        for (const v of l.values) {
          if (wanted && !v.toLowerCase().includes(wanted)) continue;
          if (++n > 200) break;
          list.append(view.element("label", {}, view.element("input", { type: "checkbox", value: v, checked: kept.includes(v),
            onchange: (e) => update((c) => {
              const now = (c.only[l.name] || []).filter((x) => x !== v);
              if (e.target.checked) now.push(v);
              if (now.length) c.only[l.name] = l.values.filter((x) => now.includes(x));
              else delete c.only[l.name];
            }) }), " ", v === "" ? "(empty)" : v));
        }
        if (n > 200) list.append(view.element("p", {}, "and more: type some letters of it"));
      };
      const details = view.element("details", { class: "filter", id: "only-" + l.name, open: view.open === l.name,
        ontoggle: (e) => { if (e.target.open) view.open = l.name; else if (view.open === l.name) view.open = ""; } },
        view.element("summary", {}, l.title + ": " + (kept.length ? kept.length + " of " + l.values.length : "all " + l.values.length)));
      if (l.values.length > 12) {
        details.append(view.element("input", { type: "search", placeholder: "some letters", "aria-label": "find a value of " + l.title,
          oninput: (e) => draw(e.target.value.toLowerCase()) }));
      }
      if (kept.length) {
        details.append(view.element("button", { type: "button", onclick: () => update((c) => { delete c.only[l.name]; }) }, "all"));
      }
      draw("");
      details.append(list);
      box.append(details);
    }
    return box;
  },

  open: "",

  // grid is the table as lines of texts, for copies and files: with figures as they are.
  grid(data, choice, sums) {
    const measure = data.measures[sums.of] || {}, across = data.labels[sums.across];
    const names = sums.columns.map((c) => across.values[c] || "(empty)");
    const lines = [[...choice.rows, ...(across ? names : [choice.show === "count" ? "count" : choice.of])]];
    const walk = (l, labels) => {
      if (labels.length === sums.by.length) {
        const cells = across ? sums.columns.map((c) => l.cells.get(c)) : [l.all];
        lines.push([...labels, ...cells.map((c) => cube.figure(c, sums.root, measure, choice.show))]);
        return;
      }
      l.list.forEach((b) => walk(b, [...labels, data.labels[sums.by[labels.length]].values[b.code]]));
    };
    walk(sums.root, []);
    return lines;
  },

  csv: (lines) => lines.map((l) => l.map((t) => (/[",\r\n]/.test(t) || /^\s|\s$/.test(t) ? '"' + t.replaceAll('"', '""') + '"' : t)).join(",")).join("\n") + "\n",

  table(data, choice, sums, update) {
    const measure = data.measures[sums.of] || {}, across = data.labels[sums.across];
    const columns = sums.columns.slice(0, view.mostColumns);
    const text = (l, c) => cube.shown(cube.figure(c, sums.root, measure, choice.show), choice.show, measure.scale);
    const gap = (c) => choice.show !== "count" && c && c.filled < c.rows && c.filled > 0;
    const cells = (l) => [...(across ? columns.map((c) => l.cells.get(c)) : []), l.all].map((c, i, all) => {
      const whole = cube.figure(c, sums.root, measure, choice.show);
      return view.element("td", { class: i === all.length - 1 && across ? "total" : null, "data-figure": whole },
        text(l, c), gap(c) ? view.element("sup", { title: c.rows - c.filled + " of " + c.rows + " rows have no figure" }, "°") : "");
    });
    const what = choice.show === "count" ? "rows" : { sum: choice.of, share: "share of " + choice.of, mean: "mean " + choice.of }[choice.show];
    const by = choice.rows.map((n) => data.labels.find((l) => l.name === n).title);
    const head = view.element("thead", {}, view.element("tr", {}, view.element("th", { scope: "col" }, by.join(" / ") || "\u00a0"),
      ...columns.map((c) => view.element("th", { scope: "col" }, across.values[c] || "(empty)")),
      view.element("th", { scope: "col", class: across ? "total" : null }, across ? "total" : what)));
    const body = view.element("tbody");
    let lines = 0, left = 0;
    const walk = (l, depth, path) => {
      for (const b of l.list) {
        if (lines >= view.mostLines) {
          left++;
          continue;
        }
        lines++;
        const value = data.labels[sums.by[depth]].values[b.code], title = value === "" ? "(empty)" : value;
        const here = JSON.stringify([...path, value]), folds = depth + 1 < sums.by.length, folded = choice.fold.has(here);
        const mark = folds ? view.element("button", { type: "button", class: "fold", "aria-expanded": String(!folded), "data-fold": here,
          onclick: () => update((c) => { if (!c.fold.delete(here)) c.fold.add(here); }, here) }, title) : title;
        body.append(view.element("tr", { class: folds ? "group" : null, "data-depth": String(depth), "data-value": value },
          view.element("th", { scope: "row", style: "padding-left:" + (0.5 + depth * 1.1) + "rem" }, mark), ...cells(b)));
        if (folds && !folded) walk(b, depth + 1, [...path, value]);
      }
    };
    if (sums.by.length) walk(sums.root, 0, []);
    const foot = view.element("tfoot", {}, view.element("tr", {}, view.element("th", { scope: "row" }, "total"), ...cells(sums.root)));
    const caption = what.replace(/^./, (c) => c.toUpperCase()) + (by.length ? " by " + by.join(", ") : "") + (across ? ", " + across.title + " across" : "");
    const notes = [];
    if (left) notes.push(left + " more lines: filter or fold, or download the file, which has all");
    if (sums.columns.length > columns.length) notes.push(sums.columns.length - columns.length + " more columns: the file has all");
    return view.element("div", {}, view.element("div", { class: "wide", tabindex: "0", role: "region", "aria-label": "cross table" },
      view.element("table", { id: "crossed" }, view.element("caption", {}, caption), head, body, foot)),
      ...notes.map((n) => view.element("p", { class: "note" }, n)));
  },

  say(text) {
    document.getElementById("said").textContent = text;
  },

  async start() {
    const place = document.getElementById("cross"), carried = document.getElementById("groups");
    if (!place || !carried) return;
    const data = await cube.unpack(carried.textContent.trim());
    let choice = choices.read(location.hash, data);
    const draw = (focus) => {
      const sums = cube.add(data, choice);
      const actions = view.element("p", { class: "actions" },
        view.element("button", { type: "button", id: "copy", onclick: async () => {
          await navigator.clipboard.writeText(view.grid(data, choice, sums).map((l) => l.join("\t")).join("\n"));
          view.say("Copied: paste it into a sheet.");
        } }, "Copy as text"), " ",
        view.element("button", { type: "button", id: "download", onclick: () => {
          const url = URL.createObjectURL(new Blob([view.csv(view.grid(data, choice, sums))], { type: "text/csv" }));
          view.element("a", { href: url, download: "cross_table.csv" }).click();
          setTimeout(() => URL.revokeObjectURL(url), 1000);
        } }, "Download as CSV"), " ",
        view.element("button", { type: "button", id: "link", onclick: async () => {
          await navigator.clipboard.writeText(location.href);
          view.say("The link shows this table.");
        } }, "Copy the link"));
      place.replaceChildren(view.controls(data, choice, update), view.filters(data, choice, update),
        view.table(data, choice, sums, update), actions);
      const again = focus && (document.getElementById(focus) || [...place.querySelectorAll("[data-fold]")].find((b) => b.dataset.fold === focus) ||
        [...place.querySelectorAll("details[open] input")].find((i) => i.value === focus));
      if (again) again.focus();
    };
    const update = (change, focus) => {
      const at = document.activeElement;
      change(choice);
      history.replaceState(null, "", choices.write(choice));
      draw(focus || (at && (at.id || at.value)));
    };
    addEventListener("hashchange", () => {
      choice = choices.read(location.hash, data);
      draw();
    });
    draw();
    place.dataset.ready = "yes";
  },
};

if (typeof document !== "undefined") {
  view.start().catch((e) => {
    const said = document.getElementById("said");
    if (said) said.textContent = "This browser cannot show other tables than this one: " + e.message;
  });
}
