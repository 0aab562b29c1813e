"use strict";
// The model in space: which result, which of its values, how large; what is under the pointer; one member picked.
(function () {
  const data = JSON.parse(document.getElementById("scene").textContent);
  const $ = (id) => document.getElementById(id);
  const floats = (text) => { const raw = atob(text), bytes = new Uint8Array(raw.length); for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i); return new Float32Array(bytes.buffer); };
  const unpacked = new Map();
  const array = (owner, key) => { let own = unpacked.get(owner); if (!own) unpacked.set(owner, own = {}); return own[key] || (own[key] = floats(owner[key])); };
  const figures = (v) => v === 0 ? "0" : Number(v.toPrecision(4)).toString();
  const member = array(data, "member"), along = array(data, "x"), at = array(data, "at"), way = { y: array(data, "y"), z: array(data, "z") };
  const count = member.length, forces = data.forces.map((f) => f[0]), plates = data.plates, fields = plates ? plates.kinds.map((f) => f[0]) : [];
  const corner = plates ? array(plates, "at") : [], corners = corner.length / 3, mesh = (key) => { const f = array(plates, key); return [0, 1, 2].map((c) => f.filter((_, j) => j % 3 === c)); };
  const faces = plates ? { free: mesh("faces"), solid: mesh("solid") } : null;
  const PLUS = "#0b4a7a", MINUS = "#d9641e", FAINT = "#aeb6c0", INK = "#2f3640", SHAPE = "#1f7a4d", LOAD = "#c8641b", PICKED = "#6d1a50";
  const SIGNED = [[0, MINUS], [0.5, "#d9dde2"], [1, PLUS]];
  // Stations in order, with a gap (-1) after each member.
  const order = [], first = new Map(), last = new Map();
  for (let i = 0; i < count; i++) {
    if (i && member[i] !== member[i - 1]) order.push(-1);
    if (!first.has(member[i])) first.set(member[i], i);
    last.set(member[i], i);
    order.push(i);
  }
  const spread = (value) => Float32Array.from(order, (i) => i < 0 ? NaN : value(i));
  const base = [0, 1, 2].map((k) => spread((i) => at[3 * i + k]));
  // What a diagram stands on: moments on the tension side, N and T along z.
  const side = { N: ["z", 1], Vy: ["y", 1], Vz: ["z", 1], T: ["z", 1], My: ["z", -1], Mz: ["y", -1] };
  let camera = { projection: { type: "orthographic" }, up: { x: 0, y: 0, z: 1 }, eye: { x: Math.cos(-58 * Math.PI / 180), y: Math.sin(-58 * Math.PI / 180), z: 0.42 } };
  // Seen in parallel, the frame is as large as its box is said to be.
  const box = [0, 1, 2].map((k) => { let low = Infinity, high = -Infinity; for (const own of [at, corner]) for (let i = k; i < own.length; i += 3) { low = Math.min(low, own[i]); high = Math.max(high, own[i]); } return high - low; });
  const widest = Math.max(...box) || 1;
  let large = 1.75;
  const sized = () => ({ x: large * Math.max(box[0] / widest, 0.05), y: large * Math.max(box[1] / widest, 0.05), z: large * Math.max(box[2] / widest, 0.05) });
  let picked = -1, running = 0;

  const results = $("result"), shown = $("shown"), scale = $("scale"), wanted = $("member"), said = $("said");
  for (const [label, cases] of [["Combinations", false], ["Cases", true]]) {
    const group = document.createElement("optgroup");
    group.label = label;
    data.results.forEach((r, i) => { if (r.case === cases) group.append(new Option(r.name + (r.what ? ": " + r.what : ""), i)); });
    if (group.children.length) results.append(group);
  }
  [["frame", "frame"], ["loads", "loads"], ["deflected", "deflected shape"], ...(count ? data.forces : []).concat(plates ? plates.kinds : []).map(([f, unit]) => [f, `${f} [${unit}]`])].forEach(([v, t]) => shown.append(new Option(t, v)));
  shown.value = "deflected";
  data.names.forEach((n) => { const o = document.createElement("option"); o.value = n; $("members").append(o); });

  const current = () => data.results[Number(results.value)];
  function largest(result, what) {
    let best = 0, who = -1, where = 0;
    if (fields.includes(what)) {
      const f = array(result, "pf"), k = fields.indexOf(what), solid = new Set(faces.solid.flatMap((f) => Array.from(f)));
      for (let i = 0; i < corners; i++) { const v = f[corners * k + i]; if (!solid.has(i) && Math.abs(v) > Math.abs(best)) { best = v; where = i; } }
      return { value: best, place: spot(where) };
    }
    if (what === "deflected") {
      const p = plates ? array(result, "pu") : [];
      let top = 0;
      for (let i = 0; i < corners; i++) { const v = Math.hypot(p[3 * i], p[3 * i + 1], p[3 * i + 2]); if (v > top) { top = v; where = i; } }
      const u = array(result, "u");
      for (let i = 0; i < count; i++) { const v = Math.hypot(u[3 * i], u[3 * i + 1], u[3 * i + 2]); if (v > best) { best = v; who = i; } }
      if (top > best) return { value: top, place: spot(where) };
      return { value: best, place: who < 0 ? "" : `${data.names[member[who]]} at ${figures(along[who])} ${data.units.length}` };
    } else {
      const e = array(result, "e"), k = forces.indexOf(what);
      for (let m = 0; m < data.names.length; m++) for (const s of [0, 1]) { const v = e[24 * m + 4 * k + 2 * s]; if (Math.abs(v) > Math.abs(best)) { best = v; who = m; where = e[24 * m + 4 * k + 2 * s + 1]; } }
    }
    return { value: best, place: who < 0 ? "" : `${data.names[who]} at ${figures(where)} ${data.units.length}` };
  }
  function spot(i) { return `${plates.names[array(plates, "surface")[i]]} at ${[0, 1, 2].map((c) => figures(corner[3 * i + c])).join(", ")} ${data.units.length}`; }
  function unitOf(what) { return what === "deflected" ? data.units.displacement : data.forces.concat(plates ? plates.kinds : []).find((f) => f[0] === what)[1]; }
  // Slabs and walls: shaded by what is shown, faint behind everything else.
  function sheets(result, what) {
    if (!plates) return [];
    const u = array(result, "pu"), f = array(result, "pf"), by = what === "deflected" ? timesOf(result) * data.displacement : 0, k = fields.indexOf(what);
    const xyz = sheetsAt(result, by), out = [], base = { type: "mesh3d", x: xyz[0], y: xyz[1], z: xyz[2], flatshading: false, lighting: { ambient: 1, diffuse: 0, specular: 0 }, showscale: false };
    const [i, j, l] = faces.free, held = { i: faces.solid[0], j: faces.solid[1], k: faces.solid[2] };
    const value = k >= 0 ? f.slice(corners * k, corners * (k + 1)) : Float32Array.from({ length: corners }, (_, n) => Math.hypot(u[3 * n], u[3 * n + 1], u[3 * n + 2]));
    const text = Array.from(value, (v, n) => `${spot(n)}<br>${k >= 0 ? what : "u"} = ${figures(v)} ${unitOf(k >= 0 ? what : "deflected")}<br>under ${result.name}`);
    if (k >= 0 || what === "deflected") {
      const top = Math.abs(largest(result, what).value) || 1, bar = { showscale: true, colorbar: { title: { text: `${k >= 0 ? what : "u"} [${unitOf(what)}]` }, len: 0.6, thickness: 12 } };
      const colors = k >= 0 ? { colorscale: [[0, MINUS], [0.5, "#ffffff"], [1, PLUS]], cmin: -top, cmax: top } : { colorscale: "Cividis", reversescale: true, cmin: 0, cmax: top };
      out.push({ ...base, ...colors, ...bar, name: "sheets", i, j, k: l, intensity: value, opacity: 1, hoverinfo: "text", text });
    } else out.push({ ...base, name: "sheets", i, j, k: l, intensity: new Float32Array(corners), colorscale: [[0, "#cfd6de"], [1, "#cfd6de"]], cmin: 0, cmax: 1, opacity: 0.5, hoverinfo: "skip" });
    if (held.i.length) out.push({ ...base, name: "held", ...held, color: "#9aa2ad", hoverinfo: "skip" });
    const edges = array(plates, "edges"), rim = [[], [], []];
    for (let n = 0; n < edges.length; n += 2) for (let c = 0; c < 3; c++) rim[c].push(xyz[c][edges[n]], xyz[c][edges[n + 1]], null);
    out.push(line(rim, { name: "rims", line: { color: INK, width: 1.5 } }));
    return out;
  }
  function sheetsAt(result, by) {
    const u = array(result, "pu");
    return [0, 1, 2].map((c) => Float32Array.from({ length: corners }, (_, n) => corner[3 * n + c] + by * u[3 * n + c]));
  }
  function place(i) { return `${data.names[member[i]]}<br>x = ${figures(along[i])} ${data.units.length}`; }
  function hover(result, what) {
    const u = array(result, "u"), f = array(result, "f"), k = forces.indexOf(what);
    return order.map((i) => {
      if (i < 0) return "";
      if (k >= 0) return `${place(i)}<br>${what} = ${figures(f[6 * i + k])} ${data.forces[k][1]}<br>under ${result.name}`;
      if (what === "deflected") return `${place(i)}<br>u = ${figures(Math.hypot(u[3 * i], u[3 * i + 1], u[3 * i + 2]))} ${data.units.displacement}<br>under ${result.name}`;
      return `${place(i)}<br>${data.sections[member[i]]}`;
    });
  }
  const line = (xyz, more) => ({ type: "scatter3d", mode: "lines", x: xyz[0], y: xyz[1], z: xyz[2], hoverinfo: "skip", showlegend: false, ...more });
  function moved(result, times) {
    const u = array(result, "u");
    return [0, 1, 2].map((k) => spread((i) => at[3 * i + k] + times * u[3 * i + k]));
  }
  const nice = (v) => { const p = Math.pow(10, Math.floor(Math.log10(v))); return [5, 2, 1].find((s) => s * p <= v * (1 + 1e-9)) * p; };
  function timesOf(result) {
    const top = largest(result, "deflected").value;
    return top > 0 ? nice(0.06 * data.size / (top * data.displacement)) * Math.pow(10, Number(scale.value)) : 0;
  }
  function shape(result, factor) { return moved(result, factor * timesOf(result) * data.displacement); }
  function arrows(result, factor) {
    // All loads of the result, each case by its factor; the largest of a kind as long as the scale says.
    const out = { line: [], point: [], area: [] }, tops = { line: 0, point: 0, area: 0 };
    for (const [name, by] of Object.entries(result.factors)) {
      const own = data.loads[name];
      if (!own) continue;
      for (const [kind, foot, value] of [["line", array(own, "line"), array(own, "q")], ["point", array(own, "point"), array(own, "p")], ["area", array(own, "area"), array(own, "w")]]) {
        for (let i = 0; i < foot.length; i += 3) {
          const v = [by * value[i], by * value[i + 1], by * value[i + 2]], size = Math.hypot(...v);
          if (!size) continue;
          out[kind].push([foot[i], foot[i + 1], foot[i + 2], ...v]);
          tops[kind] = Math.max(tops[kind], size);
        }
      }
    }
    const thin = [[], [], []], thick = [[], [], []], tip = { x: [], y: [], z: [], u: [], v: [], w: [] };
    for (const [list, top, reach] of [[out.line, tops.line, 0.08], [out.point, tops.point, 0.11], [out.area, tops.area, 0.06]]) {
      const k = top ? factor * reach * data.size * Math.pow(10, Number(scale.value)) / top : 0;
      for (const [a, b, c, u, v, w] of list) {
        const [x, y, z] = list === out.point ? thick : thin;
        x.push(a - k * u, a, null); y.push(b - k * v, b, null); z.push(c - k * w, c, null);
        const size = Math.hypot(u, v, w), head = (list === out.area ? 0.7 : 1) * (0.25 + 0.75 * size / top) / size;
        if (size < 0.02 * top) continue;
        tip.x.push(a); tip.y.push(b); tip.z.push(c); tip.u.push(head * u); tip.v.push(head * v); tip.w.push(head * w);
      }
    }
    return { thin, thick, tip, tops };
  }
  function traces() {
    const result = current(), what = shown.value, text = hover(result, what), out = [];
    const slack = new Set(result.slack);
    out.push(...sheets(result, what));
    const own = (test, xyz) => xyz.map((c) => c.map((v, j) => order[j] >= 0 && test(member[order[j]]) ? v : NaN));
    const strong = what === "frame" ? INK : FAINT;
    out.push(line(own((m) => !slack.has(m), base), { name: "members", line: { color: strong, width: what === "frame" ? 4 : 3 }, hoverinfo: "text", text }));
    out.push(line(own((m) => slack.has(m), base), { name: "slack", line: { color: FAINT, width: 2, dash: "dash" }, hoverinfo: "text", text }));
    if (what === "deflected") {
      const u = array(result, "u"), size = spread((i) => Math.hypot(u[3 * i], u[3 * i + 1], u[3 * i + 2]));
      out.push(line(shape(result, 1), { name: "shape", hoverinfo: "text", text, line: { color: size, colorscale: "Cividis", reversescale: true, cmin: 0, cmax: largest(result, what).value || 1, width: 5, showscale: !plates, colorbar: { title: { text: `u [${data.units.displacement}]` }, len: 0.6, thickness: 12 } } }));
    } else if (forces.includes(what)) {
      const f = array(result, "f"), k = forces.indexOf(what), top = Math.abs(largest(result, what).value), [axis, sign] = side[what];
      const by = top > 0 ? sign * 0.085 * data.size * Math.pow(10, Number(scale.value)) / top : 0;
      const edge = [0, 1, 2].map((c) => spread((i) => at[3 * i + c] + by * f[6 * i + k] * way[axis][3 * member[i] + c]));
      const value = spread((i) => f[6 * i + k]), color = { color: value, colorscale: SIGNED, cmin: -top || -1, cmax: top || 1, width: 4 };
      out.push(line(edge, { name: "shape", hoverinfo: "text", text, line: { ...color, showscale: true, colorbar: { title: { text: `${what} [${data.forces[k][1]}]` }, len: 0.6, thickness: 12 } } }));
      const ribs = [[], [], []], shade = [];
      order.forEach((i, j) => { if (i >= 0 && top && Math.abs(f[6 * i + k]) > 0.004 * top) { for (let c = 0; c < 3; c++) ribs[c].push(base[c][j], edge[c][j], null); shade.push(f[6 * i + k], f[6 * i + k], 0); } });
      out.push(line(ribs, { name: "ribs", line: { ...color, color: shade, width: 2 } }));
    } else if (what === "loads") {
      const { thin, thick, tip } = arrows(result, 1);
      out.push(line(thin, { name: "loads", line: { color: LOAD, width: 2.5 } }), line(thick, { name: "forces", line: { color: LOAD, width: 7 } }));
      if (tip.x.length) out.push({ type: "cone", name: "heads", ...tip, anchor: "tip", sizemode: "raw", sizeref: 0.03 * data.size, showscale: false, colorscale: [[0, LOAD], [1, LOAD]], hoverinfo: "skip" });
    }
    out.push({ type: "scatter3d", mode: "markers", name: "supports", x: data.supports.map((s) => s[0]), y: data.supports.map((s) => s[1]), z: data.supports.map((s) => s[2]), text: data.supports.map((s) => s[3]), hoverinfo: "text", marker: { symbol: "diamond", size: 5, color: "white", line: { color: INK, width: 2 } }, showlegend: false });
    if (picked >= 0) out.push(line(own((m) => m === picked, base), { name: "picked", line: { color: PICKED, width: 9 } }));
    return out;
  }
  const axis = { visible: false, showspikes: false };
  const layout = () => ({ margin: { l: 0, r: 0, t: 0, b: 0 }, scene: { aspectmode: "manual", aspectratio: sized(), dragmode: "orbit", xaxis: axis, yaxis: axis, zaxis: axis, camera }, uirevision: "kept", hoverlabel: { align: "left" }, showlegend: false });
  function draw() {
    Plotly.react("model", traces(), layout(), { responsive: true, displaylogo: false, displayModeBar: false });
    tell();
    document.getElementById("model").dataset.shows = `${shown.value} ${current().name}`;
  }
  function tell() {
    const result = current(), what = shown.value, more = data.left ? ` (${data.left} more results are not in this view; --under chooses)` : "";
    let words = `${result.name}${result.what ? ", " + result.what : ""}`;
    if (what === "deflected" || forces.includes(what) || fields.includes(what)) {
      const top = largest(result, what), unit = unitOf(what);
      words = `${what === "deflected" ? `Deflected, drawn ${figures(timesOf(result))} times as large,` : what} under ${words}: largest ${figures(top.value)} ${unit}${top.place ? " in " + top.place : ""}`;
    } else if (what === "loads") {
      const { tops } = arrows(result, 1), largestOf = [["line", "line"], ["point", "force"], ["area", "pressure"]].map(([kind, unit]) => tops[kind] ? `${figures(tops[kind])} ${data.units[unit]}` : "");
      words = `Loads of ${words}: largest single ones ${largestOf.filter(Boolean).join(" and ") || "none on members and nodes"}${data.gathered ? `; on slabs and walls gathered over ${data.gathered}` : ""}`;
    }
    said.textContent = words + more;
  }
  function pick(m) {
    picked = m;
    wanted.value = data.names[m] || "";
    draw();
    const result = current(), box = $("picked"), e = array(result, "e");
    box.replaceChildren();
    if (m < 0) return;
    const head = document.createElement("h3");
    head.textContent = `${data.names[m]}: ${data.sections[m]}, under ${result.name}`;
    const strip = document.createElement("div");
    strip.id = "strip";
    const table = document.createElement("table");
    table.innerHTML = "<thead><tr><th scope=col>of</th><th scope=col class=n>minimum</th><th scope=col class=n>at</th><th scope=col class=n>maximum</th><th scope=col class=n>at</th><th scope=col>unit</th></tr></thead>";
    const body = table.createTBody();
    // What is rounding beside others of its kind on the member is nothing.
    const tops = [0, 1].map((kind) => Math.max(...[0, 1, 2].flatMap((k) => [0, 2].map((j) => Math.abs(e[24 * m + 4 * (3 * kind + k) + j])))));
    forces.forEach((f, k) => {
      const clean = (v) => Math.abs(v) <= 1e-9 * tops[k < 3 ? 0 : 1] ? 0 : v;
      const row = body.insertRow(), [a, xa, b, xb] = [0, 1, 2, 3].map((j) => j % 2 ? e[24 * m + 4 * k + j] : clean(e[24 * m + 4 * k + j]));
      [f, figures(a), figures(xa), figures(b), figures(xb), data.forces[k][1]].forEach((t, j) => { const c = row.insertCell(); c.textContent = t; if (j > 0 && j < 5) c.className = "n"; });
    });
    box.append(head, strip, table);
    const lines = data.rows[String(m)] || [];
    if (lines.length) {
      const governs = document.createElement("table");
      governs.innerHTML = "<caption>Over all results</caption><thead><tr><th scope=col>of</th><th scope=col class=n>value</th><th scope=col>where</th><th scope=col>under</th><th scope=col>why</th></tr></thead>";
      const rows = governs.createTBody();
      lines.forEach(([of, value, where, under, anchor]) => {
        const row = rows.insertRow();
        [of, value, where, under].forEach((t, j) => { const c = row.insertCell(); c.textContent = t; if (j === 1) c.className = "n"; });
        const c = row.insertCell();
        if (anchor) { const a = document.createElement("a"); a.href = "#" + anchor; a.textContent = "why"; c.append(a); }
        else { const code = document.createElement("code"); code.textContent = `empuje why MODEL --on ${data.names[m]} --of ${of}`; c.append(code); }
      });
      box.append(governs);
    }
    drawStrip(result, m);
  }
  function drawStrip(result, m) {
    const a = first.get(m), b = last.get(m), f = array(result, "f"), u = array(result, "u"), xs = [];
    for (let i = a; i <= b; i++) xs.push(along[i]);
    const rows = forces.map((name, k) => [name, data.forces[k][1], xs.map((_, j) => f[6 * (a + j) + k]), /^M/.test(name)]);
    rows.push(["u", data.units.displacement, xs.map((_, j) => Math.hypot(u[3 * (a + j)], u[3 * (a + j) + 1], u[3 * (a + j) + 2])), false]);
    const top = Math.max(...rows.slice(0, 6).map((r) => Math.max(...r[2].map(Math.abs))));
    const kept = rows.filter((r, i) => i === 6 || Math.max(...r[2].map(Math.abs)) > 1e-4 * top);
    const plots = [], pages = { margin: { l: 70, r: 20, t: 10, b: 40 }, showlegend: false, xaxis: { title: { text: `x [${data.units.length}]` }, anchor: "y" + kept.length } };
    kept.forEach(([name, unit, v, flipped], i) => {
      const n = i ? i + 1 : "", h = 1 / kept.length;
      plots.push({ type: "scatter", mode: "lines", x: xs, y: v, fill: "tozeroy", xaxis: "x", yaxis: "y" + n, line: { color: INK, width: 1.5 }, fillcolor: "rgba(11,74,122,.2)", hovertemplate: `x %{x:.4~g} ${data.units.length}<br>${name} %{y:.4~g} ${unit}<extra></extra>` });
      pages["yaxis" + n] = { domain: [1 - (i + 1) * h + 0.03, 1 - i * h - 0.01], title: { text: `${name}<br>[${unit}]`, font: { size: 10 } }, autorange: flipped ? "reversed" : true, zerolinecolor: INK };
    });
    Plotly.newPlot("strip", plots, pages, { responsive: true, displayModeBar: false });
  }
  function turn(how) {
    const now = $("model")._fullLayout.scene._scene.getCamera(), eye = now.eye, r = Math.hypot(eye.x, eye.y, eye.z);
    let around = Math.atan2(eye.y, eye.x), above = Math.asin(eye.z / r), far = r, step = 12 * Math.PI / 180;
    if (how === "left") around -= step;
    if (how === "right") around += step;
    if (how === "up") above = Math.min(above + step, Math.PI / 2 - 0.01);
    if (how === "down") above = Math.max(above - step, -Math.PI / 2 + 0.01);
    camera = { ...now, eye: { x: far * Math.cos(above) * Math.cos(around), y: far * Math.cos(above) * Math.sin(around), z: far * Math.sin(above) } };
    if (how === "in") large *= 1.25;
    if (how === "out") large /= 1.25;
    Plotly.relayout("model", how === "in" || how === "out" ? { "scene.aspectratio": sized() } : { "scene.camera": camera });
  }
  function frame(time) {
    if (!running) return;
    const factor = Math.sin((time - running) / 600), node = $("model"), result = current();
    const find = (name) => node.data.findIndex((t) => t.name === name);
    if (shown.value === "deflected") { const s = shape(result, factor), i = find("shape"); Plotly.restyle(node, { x: [s[0]], y: [s[1]], z: [s[2]] }, [i]); if (plates) { const p = sheetsAt(result, factor * timesOf(result) * data.displacement); Plotly.restyle(node, { x: [p[0]], y: [p[1]], z: [p[2]] }, [find("sheets")]); } }
    else if (shown.value === "loads") { const { thin, thick } = arrows(result, Math.abs(factor)); Plotly.restyle(node, { x: [thin[0], thick[0]], y: [thin[1], thick[1]], z: [thin[2], thick[2]] }, [find("loads"), find("forces")]); }
    window.setTimeout(() => window.requestAnimationFrame(frame), 30);
  }
  function play(on) {
    running = on ? performance.now() : 0;
    $("play").setAttribute("aria-pressed", String(on));
    $("play").textContent = on ? "Stop" : "Animate";
    if (on) window.requestAnimationFrame(frame); else draw();
  }
  draw();
  $("model").on("plotly_click", (event) => {
    const point = event.points.find((p) => ["members", "slack", "shape"].includes(p.data.name));
    if (point && order[point.pointNumber] >= 0) pick(member[order[point.pointNumber]]);
  });
  const again = () => { draw(); if (picked >= 0) pick(picked); };
  results.addEventListener("change", again);
  shown.addEventListener("change", () => { if (running && !["deflected", "loads"].includes(shown.value)) play(false); draw(); });
  scale.addEventListener("input", draw);
  wanted.addEventListener("change", () => { const m = data.names.indexOf(wanted.value); if (m < 0 && wanted.value) { said.textContent = `No member is called ${wanted.value}.`; return; } if (m !== picked) pick(m); });
  $("play").addEventListener("click", () => { if (!["deflected", "loads"].includes(shown.value)) shown.value = "deflected"; draw(); play(!running); });
  document.querySelectorAll("[data-turn]").forEach((b) => b.addEventListener("click", () => turn(b.dataset.turn)));
  $("model").addEventListener("keydown", (e) => { const how = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down", "+": "in", "-": "out" }[e.key]; if (how) { e.preventDefault(); turn(how); } });
  $("controls").addEventListener("submit", (e) => e.preventDefault());
})();
