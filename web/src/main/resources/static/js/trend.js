"use strict";
// The plots of a trend under each other and their readings: drawn curve by curve, zoomed by dragging and the wheel, moved by keys, live where
// their window ends now.
(() => {
  const box = document.getElementById("trend-plot");
  if (!box) return;
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const zone = document.documentElement.dataset.zone;
  const format = (options) => new Intl.DateTimeFormat("en-GB", { ...options, timeZone: zone });
  const clock = format({ hour: "2-digit", minute: "2-digit", second: "2-digit" }), day = format({ day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit" });
  const full = format({ day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit", second: "2-digit" });
  const number = (value, decimals = -1) => decimals >= 0 && value !== null && value !== undefined ? value.toFixed(decimals) : value === null || value === undefined ? "" : Math.abs(value) >= 1e6 || value !== 0 && Math.abs(value) < 1e-3 ? value.toPrecision(5) : value.toFixed(Math.abs(value) >= 1000 ? 1 : 3);
  const DASHES = [[], [9, 4], [2, 3], [10, 3, 2, 3]], COLOURS = 6;
  // Told apart by colour and by line: whoever sees no colours has the line.
  const look = (index, own) => ({ stroke: colour(`--curve-${own.colour > 0 ? own.colour : index % COLOURS + 1}`), dash: DASHES[index % DASHES.length], width: (index < 8 ? 1.7 : 2.6) * (own.wide === "true" ? 2 : 1) });

  const before = {};
  const curves = [...document.querySelectorAll(".readings [data-curve]")].map((row) => {
    const { plot, curve, name, scale, stepped, marked, hidden } = row.dataset, index = before[plot] = (before[plot] ?? -1) + 1, looks = look(index, row.dataset), sample = row.querySelector("svg");
    sample.style.stroke = sample.style.fill = looks.stroke;
    sample.querySelector("line").style.strokeDasharray = looks.dash.join(" ");
    sample.querySelector("line").style.strokeWidth = looks.width;
    return { row, plot, id: curve, name, scale: scale ? "s " + scale : "own " + curve, stepped: stepped === "true", marked: marked === "true", show: hidden !== "true", decimals: Number(row.dataset.decimals), limits: [row.dataset.low, row.dataset.high].filter(Boolean).map(Number), looks, times: [], values: [], trouble: [], words: new Map() };
  });
  let from = box.dataset.from / 1000, to = box.dataset.to / 1000, live = box.dataset.live === "true", mark = null, second = null, asked = 0;
  const behind = Date.now() - box.dataset.now;
  const plots = [...new Set(curves.map((curve) => curve.plot))].map((number) => {
    const place = document.createElement("div");
    place.className = "trend-one";
    box.append(place);
    return { place, curves: curves.filter((curve) => curve.plot === number), drawn: null };
  });
  const bands = [...document.querySelectorAll("#trend-bands [data-band]")].map((row) => ({ row, id: row.dataset.band, name: row.dataset.name, stretches: [], tints: new Map() }));
  const redraw = () => plots.forEach((plot) => plot.drawn?.redraw(false));

  // The last value at or before a time; nothing where the line is broken there.
  const valueAt = (curve, time) => {
    let low = 0, high = curve.times.length;
    while (low < high) { const middle = (low + high) >> 1; if (curve.times[middle] <= time) low = middle + 1; else high = middle; }
    if (low === 0) return null;
    const before = curve.values[low - 1], next = curve.values[low];
    if (curve.stepped || before === null || next === null || next === undefined) return low === curve.times.length && time > curve.times[low - 1] && !live ? null : before;
    return before + (next - before) * (time - curve.times[low - 1]) / (curve.times[low] - curve.times[low - 1]);
  };
  const tell = (curve, text) => { curve.row.querySelector("[data-told]").textContent = text ? " " + text : ""; };
  // What is the matter in a stretch is asked once, when the cursor comes there.
  let whyLater = 0;
  const why = (curve, bad) => {
    if (curve.words.has(bad[0])) return tell(curve, curve.words.get(bad[0]));
    clearTimeout(whyLater);
    whyLater = setTimeout(async () => {
      const answer = await ask(`${box.dataset.trend}/curves/${curve.id}/words?at=${Math.round((bad[0] + bad[1]) * 500)}`).catch(() => null);
      if (!answer?.ok) return;
      curve.words.set(bad[0], `from ${full.format(new Date(bad[0] * 1000))} to ${full.format(new Date(bad[1] * 1000))}: ${(await answer.json()).words}`);
      read();
    }, 200);
  };
  const read = () => {
    if (!curves.length) return;
    const under = plots.find((plot) => plot.drawn && plot.drawn.cursor.left >= 0)?.drawn, at = under ? under.posToVal(under.cursor.left, "x") : null;
    const then = at ?? Math.min(to, (Date.now() - behind) / 1000 - 1), on = bands.map((band) => [band, band.stretches.filter((each) => then >= each.from && then < each.to)]).filter(([, all]) => all.length);
    document.getElementById("reading-bands").textContent = on.map(([band, all]) => `${band.name}: ${all.map((each) => each.name).join(", ")}`).join(" · ");
    document.getElementById("reading-at").textContent = at === null ? "Newest" : full.format(new Date(at * 1000));
    for (const curve of curves) {
      const value = valueAt(curve, at === null ? Math.max(curve.times.at(-1) ?? 0, 0) : at), then = mark === null ? null : valueAt(curve, mark);
      const bad = at === null ? null : curve.trouble.find((each) => at >= each[0] && at < each[1]);
      curve.row.querySelector("[data-at]").textContent = bad && value === null ? ["", "uncertain", "bad", "unknown"][bad[2]] : number(value, curve.decimals);
      if (bad) why(curve, bad);
      else tell(curve, curve.told);
      curve.row.querySelector("[data-since]").textContent = value === null || then === null ? "" : (value - then > 0 ? "+" : "") + number(value - then, curve.decimals);
    }
  };

  // Above the uppermost plot each band is a strip with its names; the first band lies behind all plots as well. One name has one tint.
  const STRIP = 18;
  const tints = () => Array.from({ length: COLOURS }, (none, index) => colour(`--curve-${index + 1}`));
  const tint = (band, name, all) => { if (!band.tints.has(name)) band.tints.set(name, band.tints.size % COLOURS); return all[band.tints.get(name)]; };
  const behindCurves = (self, isFirst) => {
    const { ctx, bbox } = self, r = devicePixelRatio, all = tints(), ink = colour("--ink"), quiet = colour("--quiet");
    ctx.save();
    ctx.textBaseline = "middle"; ctx.font = `${11 * r}px "Atkinson Hyperlegible Next"`; ctx.lineWidth = r;
    bands.forEach((band, index) => {
      const top = bbox.top - (bands.length - index) * STRIP * r, high = (STRIP - 3) * r;
      if (isFirst) { ctx.fillStyle = quiet; ctx.textAlign = "right"; ctx.fillText(band.name, bbox.left - 6 * r, top + high / 2, bbox.left - 8 * r); }
      ctx.textAlign = "left";
      for (const stretch of band.stretches) {
        const a = Math.max(bbox.left, self.valToPos(stretch.from, "x", true)), b = Math.min(bbox.left + bbox.width, self.valToPos(stretch.to, "x", true));
        if (b <= a) continue;
        ctx.fillStyle = tint(band, stretch.name, all);
        if (index === 0) { ctx.globalAlpha = 0.07; ctx.fillRect(a, bbox.top, b - a, bbox.height); }
        if (isFirst) {
          ctx.globalAlpha = 0.22; ctx.fillRect(a, top, b - a, high);
          ctx.globalAlpha = 1; ctx.fillRect(a, top, r, high);
          const words = fitting(ctx, stretch.name, b - a - 10 * r);
          if (words) { ctx.fillStyle = ink; ctx.fillText(words, a + 5 * r, top + high / 2); }
        }
        ctx.globalAlpha = 1;
      }
    });
    ctx.restore();
  };
  // A name is cut where it does not fit, and left away where nothing of it would be told.
  const fitting = (ctx, words, room) => {
    if (room < 14 * devicePixelRatio) return "";
    if (ctx.measureText(words).width <= room) return words;
    let letters = words.length;
    while (letters > 1 && ctx.measureText(words.slice(0, letters) + "…").width > room) letters--;
    return letters > 2 ? words.slice(0, letters) + "…" : "";
  };
  const overCurves = (self, own) => {
    for (const curve of own.filter((each) => each.show)) for (const limit of curve.limits) {
      const { ctx, bbox } = self, y = self.valToPos(limit, curve.scale, true);
      if (!(y >= bbox.top && y <= bbox.top + bbox.height)) continue;
      ctx.save(); ctx.textAlign = "left"; ctx.strokeStyle = curve.looks.stroke; ctx.lineWidth = devicePixelRatio; ctx.setLineDash([14, 4, 2, 4]); ctx.beginPath(); ctx.moveTo(bbox.left, y); ctx.lineTo(bbox.left + bbox.width, y); ctx.stroke();
      ctx.fillStyle = curve.looks.stroke; ctx.font = `${11 * devicePixelRatio}px "Atkinson Hyperlegible Mono"`; ctx.fillText(`${curve.name} ${limit}`, bbox.left + 6 * devicePixelRatio, y - 3 * devicePixelRatio); ctx.restore();
    }
    // Where values were not good, a bar in the curve's colour lies on the floor of the plot: full for bad, dotted for uncertain, hollow where nothing is known.
    const { ctx, bbox } = self, high = 6 * devicePixelRatio;
    own.filter((each) => each.show && each.trouble.length).forEach((curve, index) => {
      const top = bbox.top + bbox.height - (index + 1) * (high + 2 * devicePixelRatio);
      ctx.save(); ctx.beginPath(); ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height); ctx.clip(); ctx.fillStyle = ctx.strokeStyle = curve.looks.stroke; ctx.lineWidth = devicePixelRatio;
      for (const [a, b, grade] of curve.trouble) {
        const left = self.valToPos(a, "x", true), width = Math.max(2 * devicePixelRatio, self.valToPos(b, "x", true) - left);
        if (grade === 2) ctx.fillRect(left, top, width, high);
        else { ctx.setLineDash(grade === 1 ? [2, 2] : []); ctx.strokeRect(left, top, width, high); }
      }
      ctx.restore();
    });
    for (const at of [mark, second]) {
      if (at === null || at < from || at > to) continue;
      const x = self.valToPos(at, "x", true);
      ctx.save(); ctx.strokeStyle = colour("--ink"); ctx.setLineDash([3, 3]); ctx.beginPath(); ctx.moveTo(x, bbox.top); ctx.lineTo(x, bbox.top + bbox.height); ctx.stroke(); ctx.restore();
    }
  };

  const data = (own) => own.some((curve) => curve.times.length) ? uPlot.join(own.map((curve) => [curve.times, curve.values]), own.map(() => [1, 2])) : [[from, to], ...own.map(() => [null, null])];
  const AXIS = 80, scalesOf = (plot) => [...new Set(plot.curves.filter((curve) => curve.show).map((curve) => curve.scale))];
  // What is not drawn yet cannot be taken as a picture.
  const pictures = () => ["trend-picture", "trend-svg"].forEach((id) => { const button = document.getElementById(id); if (button) button.disabled = !plots.some((plot) => plot.drawn); });
  const drawAll = () => plots.forEach(draw);
  const draw = (plot) => {
    plot.drawn?.destroy();
    plot.drawn = null;
    box.classList.toggle("nothing", !curves.some((curve) => curve.times.length));
    if (box.classList.contains("nothing")) { pictures(); read(); return; }
    const own = plot.curves, isFirst = plot === plots[0], isLast = plot === plots.at(-1);
    const ink = { stroke: colour("--quiet"), grid: { stroke: colour("--line"), width: 1 }, ticks: { stroke: colour("--line") }, font: '12px "Atkinson Hyperlegible Mono"' };
    const long = to - from > 86400, scales = scalesOf(plot);
    const shownAxes = scales.slice(0, 4).map((scale, index) => {
      const of = own.filter((curve) => curve.scale === scale);
      return { ...ink, scale, side: index % 2 ? 1 : 3, size: AXIS - 18, grid: { show: index === 0, stroke: colour("--line"), width: 1 }, stroke: of.length === 1 ? of[0].looks.stroke : colour("--quiet"), label: of[0].row.dataset.unit || (of.length === 1 ? of[0].name : scale.slice(2)), labelSize: 18, labelFont: '12px "Atkinson Hyperlegible Next"' };
    });
    // One time stands under the other: a plot with fewer scales keeps as much room for them as the one with most.
    const axes = (each, side) => Math.floor((Math.min(4, scalesOf(each).length) + (side ? 0 : 1)) / 2), room = (side) => AXIS * (Math.max(...plots.map((each) => axes(each, side))) - axes(plot, side));
    const drawn = plot.drawn = new uPlot({
      width: plot.place.clientWidth, height: plot.place.clientHeight || 230, legend: { show: false }, padding: [8 + (isFirst ? bands.length * STRIP : 0), 8 + room(1), 0, room(0) || (scales.length ? 0 : AXIS)],
      cursor: { y: false, points: { size: 6 }, drag: { x: true, y: false, setScale: false }, sync: { key: box.dataset.trend, scales: ["x", null], filters: { pub: (what) => what === "mousemove" || what === "mouseleave" } } },
      scales: { x: { time: false, range: () => [from, to] }, ...Object.fromEntries(scales.map((scale) => [scale, { range: (self, least, most) => { const lines = own.filter((curve) => curve.scale === scale && curve.show).flatMap((curve) => curve.limits), low = Math.min(least ?? Infinity, ...lines), high = Math.max(most ?? -Infinity, ...lines); return low > high ? [0, 1] : uPlot.rangeNum(low, high, 0.1, true); } }])) },
      axes: [{ ...ink, ...(isLast ? {} : { size: 6, ticks: { show: false } }), values: (self, ticks) => ticks.map((seconds) => (isLast ? (long ? day : clock).format(new Date(seconds * 1000)) : "")), space: long ? 120 : 90, incrs: [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 10800, 14400, 21600, 43200, 86400, 172800, 604800, 1209600, 2592000, 7776000, 31536000] }, ...shownAxes],
      series: [{}, ...own.map((curve) => ({ label: curve.name, scale: curve.scale, show: curve.show, ...curve.looks, spanGaps: false, points: { show: curve.marked, size: 6, fill: curve.looks.stroke }, ...(curve.stepped ? { paths: uPlot.paths.stepped({ align: 1 }) } : {}) }))],
      hooks: { setSelect: [(self) => self.select.width > 4 && show(self.posToVal(self.select.left, "x"), self.posToVal(self.select.left + self.select.width, "x"))], setCursor: [read], drawClear: [(self) => behindCurves(self, isFirst)], draw: [(self) => overCurves(self, own)] },
    }, data(own), plot.place);
    let pressed = 0;
    drawn.over.addEventListener("mousedown", (event) => { pressed = event.clientX; });
    drawn.over.addEventListener("click", (event) => {
      if (Math.abs(event.clientX - pressed) > 4) return;
      const at = drawn.posToVal(drawn.cursor.left, "x");
      if (mark === null || second !== null) { mark = mark !== null ? null : at; second = null; } else if (Math.abs(mark - at) < (to - from) / 200) mark = null; else second = at;
      redraw(); read(); between();
    });
    drawn.over.addEventListener("wheel", (event) => {
      event.preventDefault();
      const at = drawn.posToVal(event.offsetX, "x"), by = event.deltaY < 0 ? 0.7 : 1.4;
      show(at - (at - from) * by, at + (to - at) * by, 250);
    }, { passive: false });
    pictures();
    read();
  };

  const NUMBERS = ["least", "mean", "greatest", "integral"];
  const numbers = (curve, found) => { for (const of of NUMBERS) curve.row.querySelector(`[data-${of}]`).textContent = number(found?.[of], curve.decimals); };
  const NO_ANSWER = { problem: "It did not answer; show it again." };
  const drawnOf = (a, b, more) => `${box.dataset.trend}/drawn?begin=${Math.round(a * 1000)}&end=${Math.round(b * 1000)}&${more}`;
  // Asked again until others are not under way. Each line that comes is taken, and `then` is done for each few of them; another window ends
  // it. Says whether all came.
  let asking = new AbortController();
  const lines = async (address, take, then) => {
    const { signal } = asking;
    let whole = false;
    const read = async (body) => {
      const reader = body.pipeThrough(new TextDecoderStream()).getReader();
      let rest = "";
      for (let part; !(part = await reader.read()).done;) {
        const all = (rest + part.value).split("\n");
        rest = all.pop();
        all.forEach((line) => take(JSON.parse(line)));
        if (all.length) then?.();
      }
      whole = !rest;
    };
    const failed = (why) => { if (!signal.aborted) console.warn("What is drawn did not come whole.", why); return { ok: false }; };
    for (; !signal.aborted; await new Promise((soon) => setTimeout(soon, 100))) {
      const answer = await ask(address, read, signal).catch(failed);
      if (answer) return answer.ok && whole;
    }
    return false;
  };
  // Between two marks the numbers are those of all values between them, not of what is drawn.
  const between = async () => {
    const marked = second !== null, [a, b] = marked ? [Math.min(mark, second), Math.max(mark, second)] : [from, to];
    document.getElementById("readings-of").textContent = marked ? `Numbers from ${full.format(new Date(a * 1000))} to ${full.format(new Date(b * 1000))}, between the marks` : "";
    for (const curve of curves) numbers(curve, marked ? null : curve.whole);
    const [mine, other] = [mark, second];
    if (marked) await lines(drawnOf(a, b, "points=10&only=curves"), (line) => { if (mark === mine && second === other && byId.has(line.curve)) numbers(byId.get(line.curve), line); });
  };

  const byId = new Map(curves.map((curve) => [curve.id, curve])), bandById = new Map(bands.map((band) => [band.id, band]));
  const takeBand = (found, end) => {
    const band = bandById.get(found.band);
    if (!band) return;
    // What goes on where the window ends now goes on for as long as nothing else is heard.
    band.stretches = (found.stretches ?? []).map((each) => (live && each.to >= end ? { ...each, to: Infinity } : each));
    band.row.querySelector("[data-problem]").textContent = found.problem ? " " + found.problem : "";
    band.row.querySelector("[data-told]").textContent = found.problem ? "" : " " + (found.told || (band.stretches.length ? "" : "nothing of it in this window"));
  };
  const loadBands = () => {
    const end = to - 1;
    return lines(drawnOf(from, to, "only=bands"), (line) => takeBand(line, end), () => { redraw(); read(); });
  };
  // Numbers of 64 bits in Base64; where there is none, the line breaks.
  const numbersOf = (letters = "") => [...new Float64Array(Uint8Array.from(atob(letters), (letter) => letter.charCodeAt(0)).buffer)];
  const takeCurve = (found, begin) => {
    const curve = byId.get(found.curve);
    if (!curve) return;
    Object.assign(curve, { times: numbersOf(found.times).map((micros) => begin + micros / 1e6), values: numbersOf(found.values).map((value) => (Number.isNaN(value) ? null : value)), whole: found, trouble: found.trouble ?? [], told: found.told, words: new Map() });
    if (second === null) numbers(curve, found);
    curve.row.querySelector("[data-problem]").textContent = found.problem ? " " + found.problem : "";
    tell(curve, found.told);
  };
  // All in one answer, each as soon as it is there: what comes together is drawn once.
  const load = async () => {
    if (!curves.length && !bands.length) return;
    asking.abort();
    asking = new AbortController();
    const mine = ++asked, end = to - 1, begin = Math.round(from * 1000) / 1000, missing = new Set([...curves, ...bands]), fresh = new Set();
    const points = Math.max(200, Math.min(2000, Math.round(box.clientWidth)));
    const take = (line) => {
      if (line.band) { takeBand(line, end); missing.delete(bandById.get(line.band)); return; }
      takeCurve(line, begin); missing.delete(byId.get(line.curve)); fresh.add(byId.get(line.curve));
    };
    const draws = () => {
      if (plots.some((plot) => !plot.drawn)) drawAll(); else plots.filter((plot) => plot.curves.some((curve) => fresh.has(curve))).forEach(draw);
      fresh.clear(); redraw(); read();
    };
    const whole = await lines(drawnOf(from, to, `points=${points}`), take, draws);
    if (mine !== asked) return;
    if (!whole) { missing.forEach((each) => take({ ...NO_ANSWER, ...(bands.includes(each) ? { band: each.id } : { curve: each.id }) })); draws(); }
    box.plotted = plots[0]?.drawn?.data;
    table();
    box.dataset.drawn = mine;
  };

  // What is drawn, in numbers: as far as it is shown, and no more than somebody reads.
  const MOST_LINES = 1000;
  const table = () => {
    const details = document.getElementById("trend-values");
    if (!details?.open) return;
    const drawn = curves.filter((curve) => curve.show && curve.times.length), [times = [], ...columns] = drawn.length ? uPlot.join(drawn.map((curve) => [curve.times, curve.values]), drawn.map(() => [1, 2])) : [];
    const shown = drawn.map((curve, index) => ({ curve, values: columns[index] }));
    const lines = [];
    let all = 0;
    times.forEach((time, at) => {
      if (time < from || time > to || !shown.some(({ values }) => values[at] !== undefined)) return;
      all++;
      if (lines.length < MOST_LINES) lines.push([full.format(new Date(time * 1000)), ...shown.map(({ curve, values }) => values[at] === null ? "no value" : number(values[at], curve.decimals))]);
    });
    details.querySelector("p").textContent = all > lines.length ? `The first ${MOST_LINES} of ${all} points; look closer, or take every value as a file.` : `${all} points, as the plots have them.`;
    const made = document.createElement("table"), head = made.createTHead().insertRow();
    made.className = "list";
    for (const name of ["Time", ...shown.map(({ curve }) => curve.name + (curve.row.dataset.unit ? ` (${curve.row.dataset.unit})` : ""))]) { const cell = document.createElement("th"); cell.scope = "col"; cell.textContent = name; head.append(cell); }
    const body = made.createTBody();
    for (const line of lines) { const row = body.insertRow(); line.forEach((text, index) => { const cell = row.insertCell(); cell.className = index ? "num mono" : "mono"; cell.textContent = text; }); }
    details.querySelector("div").replaceChildren(made);
  };
  document.getElementById("trend-values")?.addEventListener("toggle", table);

  // The plots as lines, for whoever prints or draws on them.
  const svg = () => {
    const drawn = plots.filter((plot) => plot.drawn), w = drawn[0].drawn.width, lines = [];
    const text = (value) => String(value).replace(/[&<>"]/g, (letter) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[letter]);
    const put = (x, y, words, anchor, fill) => lines.push(`<text x="${x.toFixed(1)}" y="${y.toFixed(1)}" font-size="11" text-anchor="${anchor}" fill="${fill}">${text(words)}</text>`);
    const ink = colour("--quiet"), all = tints();
    let down = 0;
    for (const plot of drawn) {
      const u = plot.drawn, own = plot.curves, { left, top, width, height } = u.bbox, r = devicePixelRatio, edge = [left / r, top / r + down, width / r, height / r];
      bands.forEach((band, index) => band.stretches.forEach((stretch) => {
        const a = Math.max(0, u.valToPos(stretch.from, "x")) + edge[0], b = Math.min(edge[2], u.valToPos(stretch.to, "x")) + edge[0], y = edge[1] - (bands.length - index) * STRIP;
        if (b <= a) return;
        if (index === 0) lines.push(`<rect x="${a.toFixed(1)}" y="${edge[1]}" width="${(b - a).toFixed(1)}" height="${edge[3]}" fill="${tint(band, stretch.name, all)}" fill-opacity="0.07"/>`);
        if (plot !== drawn[0]) return;
        lines.push(`<rect x="${a.toFixed(1)}" y="${y}" width="${(b - a).toFixed(1)}" height="${STRIP - 3}" fill="${tint(band, stretch.name, all)}" fill-opacity="0.22"><title>${text(stretch.name)}</title></rect>`);
        if (b - a > 7 * stretch.name.length) put(a + 5, y + 11, stretch.name, "start", colour("--ink"));
      }));
      lines.push(`<rect x="${edge[0]}" y="${edge[1]}" width="${edge[2]}" height="${edge[3]}" fill="none" stroke="${colour("--line")}"/>`);
      for (let i = 0; i <= 6; i++) {
        const time = from + (to - from) * i / 6, x = u.valToPos(time, "x") + edge[0];
        lines.push(`<line x1="${x.toFixed(1)}" x2="${x.toFixed(1)}" y1="${edge[1]}" y2="${edge[1] + edge[3]}" stroke="${colour("--line")}"/>`);
        if (plot === drawn.at(-1)) put(x, edge[1] + edge[3] + 16, (to - from > 86400 ? day : clock).format(new Date(time * 1000)), "middle", ink);
      }
      scalesOf(plot).slice(0, 4).forEach((scale, index) => {
        const { min, max } = u.scales[scale], x = index % 2 ? edge[0] + edge[2] + 6 + 60 * (index >> 1) : edge[0] - 6 - 60 * (index >> 1);
        for (let i = 0; i <= 5; i++) { const value = min + (max - min) * i / 5; put(x, u.valToPos(value, scale) + edge[1] + 4, number(value), index % 2 ? "start" : "end", ink); }
      });
      own.forEach((curve, index) => {
        put(edge[0], down + u.height + 20 * index + 14, `${curve.name}${curve.row.dataset.unit ? ` (${curve.row.dataset.unit})` : ""}`, "start", curve.looks.stroke);
        if (!curve.show) return;
        let path = "", open = false;
        curve.times.forEach((time, at) => {
          const value = curve.values[at];
          if (value === null || time < from || time > to) { open = open && value !== null; return; }
          const x = (u.valToPos(time, "x") + edge[0]).toFixed(1), y = (u.valToPos(value, curve.scale) + edge[1]).toFixed(1);
          path += !open ? `M${x} ${y}` : curve.stepped ? `H${x}V${y}` : `L${x} ${y}`;
          open = true;
          if (curve.marked) lines.push(`<circle cx="${x}" cy="${y}" r="3" fill="${curve.looks.stroke}"/>`);
        });
        if (path) lines.push(`<path d="${path}" fill="none" stroke="${curve.looks.stroke}" stroke-width="${curve.looks.width}" stroke-dasharray="${curve.looks.dash.join(" ")}"><title>${text(curve.name)}</title></path>`);
      });
      down += u.height + 20 * own.length;
    }
    return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${down}" viewBox="0 0 ${w} ${down}" font-family="Atkinson Hyperlegible Next, sans-serif"><rect width="${w}" height="${down}" fill="${colour("--surface")}"/>${lines.join("")}</svg>`;
  };
  const save = (address, ending) => {
    const link = document.createElement("a");
    Object.assign(link, { href: address, download: document.querySelector("h1").textContent.replace(/[^A-Za-z0-9._-]+/g, "_") + "." + ending });
    link.click();
  };

  let later = 0;
  const iso = (seconds) => new Date(Math.round(seconds * 1000)).toISOString().replace(".000", "");
  const show = (a, b, wait = 0) => {
    const least = 1, middle = (a + b) / 2;
    [from, to] = b - a < least ? [middle - least / 2, middle + least / 2] : [Math.max(0, a), b];
    live = false;
    const words = `${iso(from)} to ${iso(to)}`, field = document.getElementById("window");
    field.value = words;
    history.replaceState(null, "", `${box.dataset.trend}?window=${encodeURIComponent(words)}`);
    document.querySelectorAll("input[type=hidden][name=window]").forEach((each) => { each.value = words; });
    clearTimeout(later);
    plots.forEach((plot) => plot.drawn?.setScale("x", { min: from, max: to }));
    later = setTimeout(() => { field.dispatchEvent(new Event("input", { bubbles: true })); load(); }, wait);
  };
  const step = (which) => {
    const length = to - from;
    if (which === "earlier") show(from - length / 2, to - length / 2);
    if (which === "later") show(from + length / 2, to + length / 2);
    if (which === "wider") show(from - length / 2, to + length / 2);
    if (which === "closer") show(from + length / 4, to - length / 4);
  };
  // Files have what is shown now; a picture is the plot on paper.
  document.addEventListener("click", (event) => {
    const file = event.target.closest("[data-values]");
    if (file) file.search = `?begin=${Math.round(from * 1000)}&end=${Math.round(to * 1000)}`;
    const drawn = plots.filter((plot) => plot.drawn);
    if (event.target.id === "trend-svg" && drawn.length) {
      const address = URL.createObjectURL(new Blob([box.svg = svg()], { type: "image/svg+xml" }));
      save(address, "svg");
      setTimeout(() => URL.revokeObjectURL(address), 10000);
    }
    if (event.target.id !== "trend-picture" || !drawn.length) return;
    const sheets = drawn.map((plot) => plot.drawn.ctx.canvas), paper = document.createElement("canvas");
    Object.assign(paper, { width: sheets[0].width, height: sheets.reduce((all, sheet) => all + sheet.height, 0) });
    const ink = paper.getContext("2d");
    ink.fillStyle = colour("--surface"); ink.fillRect(0, 0, paper.width, paper.height);
    sheets.reduce((down, sheet) => { ink.drawImage(sheet, 0, down); return down + sheet.height; }, 0);
    save(paper.toDataURL("image/png"), "png");
  });
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-trend-step]");
    if (button) step(button.dataset.trendStep);
    const toggle = event.target.closest("[data-toggle-curve]");
    if (toggle) {
      const curve = curves.find((each) => each.row === toggle.closest("tr"));
      curve.show = !curve.show;
      toggle.setAttribute("aria-pressed", curve.show);
      curve.row.classList.toggle("is-hidden", !curve.show);
      drawAll();
    }
  });
  box.addEventListener("keydown", (event) => {
    const which = { ArrowLeft: "earlier", ArrowRight: "later", "-": "wider", "+": "closer" }[event.key];
    if (!which) return;
    event.preventDefault(); event.stopPropagation();
    step(which);
  });
  new ResizeObserver(() => plots.forEach(({ place, drawn }) => drawn && drawn.width !== place.clientWidth && drawn.setSize({ width: place.clientWidth, height: place.clientHeight }))).observe(box);

  // Where the window ends now it moves on, and what is new is put behind what is there.
  const BANDS_EVERY = 15;
  let beats = 0;
  const follow = async () => {
    const now = (Date.now() - behind) / 1000;
    if (live && !document.hidden && plots.some((plot) => plot.drawn)) {
      if (++beats % BANDS_EVERY === 0) loadBands();
      const answer = await ask(`${box.dataset.trend}/now`).catch(() => null);
      if (answer?.ok && live) {
        const values = await answer.json();
        from += now - to; to = now;
        for (const curve of curves) {
          const value = values[curve.id];
          if (value && value[0] > (curve.times.at(-1) ?? 0)) { curve.times.push(value[0]); curve.values.push(value[1]); }
          let gone = 0;
          while (gone + 1 < curve.times.length && curve.times[gone + 1] < from) gone++;
          if (gone > 50) { curve.times.splice(0, gone); curve.values.splice(0, gone); }
        }
        for (const plot of plots) plot.drawn?.setData(data(plot.curves));
        read();
      }
    }
    setTimeout(follow, 1000);
  };
  load().then(follow);

  document.addEventListener("click", (event) => {
    const pick = event.target.closest(".picks[data-into=trend] .pick");
    if (!pick) return;
    const form = pick.closest("form");
    form.querySelector("[name=key]").value = pick.dataset.key;
    form.submit();
  });
  // What is added goes where somebody said.
  document.addEventListener("change", (event) => {
    if (event.target.id === "add-plot") document.querySelectorAll(".trend-add input[name=plot]").forEach((each) => { each.value = event.target.value; });
  });
})();
