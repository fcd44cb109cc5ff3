"use strict";
// The tag list: only the rows in view are in the page; values come every second; ticks outlive any search.
(() => {
  const ROW = 30, AHEAD = 15, LIVE_SECONDS = 300, DAY_SECONDS = 86400, DAY_AGE = 60000, WIDTH = 150, HEIGHT = 22;
  const form = document.getElementById("tag-form");
  if (!form) return;
  const scroller = document.getElementById("tags"), body = scroller.querySelector("tbody"), count = document.getElementById("tag-count");
  const empty = document.getElementById("no-tags"), tickAll = document.getElementById("tick-all");
  const ticked = new Set(), rows = new Map();
  const days = new Map(); // key → { at, points } of the last 24 hours, where the archive knows them
  let asksDays = false;
  let current = null, total = Number.MAX_SAFE_INTEGER, asked = 0, first = -1, last = -1;

  const query = () => {
    const values = new URLSearchParams();
    if (form.dataset.source) values.set("source", form.dataset.source);
    form.querySelectorAll("[data-filter]").forEach((field) => { if (field.value.trim()) values.set(field.dataset.filter, field.value.trim()); });
    return values;
  };

  function path(points, seconds) {
    const values = points.map((point) => point[1]).filter((value) => value !== null);
    if (values.length < 2) return "";
    const low = Math.min(...values), high = Math.max(...values), span = high - low;
    let pen = "M", drawn = "";
    for (const [ago, value] of points) {
      if (value === null) { pen = "M"; continue; }
      const x = WIDTH - Math.min(ago, seconds) / seconds * WIDTH;
      const y = span === 0 ? HEIGHT / 2 : HEIGHT - 2 - (value - low) / span * (HEIGHT - 4);
      drawn += `${pen}${x.toFixed(1)} ${y.toFixed(1)}`;
      pen = "L";
    }
    return drawn;
  }

  function make() {
    const row = document.createElement("tr");
    row.innerHTML = `<td class="tick"><input type="checkbox"></td><td data-part="name"><a data-open></a></td><td class="quiet" data-part="where"></td><td class="num mono" data-part="value"></td><td class="quiet" data-part="unit"></td><td data-part="quality"></td><td class="num mono quiet" data-part="age"></td><td class="spark"><svg viewBox="0 0 ${WIDTH} ${HEIGHT}" width="${WIDTH}" height="${HEIGHT}" aria-hidden="true"><path/></svg></td>`;
    return row;
  }

  const set = (element, text) => { if (element.textContent !== text) element.textContent = text; };

  function show(row, tag) {
    const part = (name) => row.querySelector(`[data-part=${name}]`);
    if (row.dataset.key !== tag.key) {
      row.dataset.key = tag.key;
      const box = row.querySelector("input"), link = row.querySelector("a");
      box.value = tag.key;
      box.setAttribute("aria-label", `Tick ${tag.name}`);
      link.href = `/plant/tag?key=${encodeURIComponent(tag.key)}`;
      link.textContent = tag.name;
      link.title = tag.description;
      set(part("where"), tag.where);
      part("where").title = tag.where;
      set(part("unit"), tag.unit);
    }
    row.querySelector("input").checked = ticked.has(tag.key);
    set(part("value"), tag.value);
    part("value").title = tag.sourceTime;
    set(part("age"), tag.age);
    set(part("quality"), tag.sentence);
    part("quality").title = tag.sentence;
    part("quality").className = `quality ${tag.stale ? "uncertain" : tag.quality}`;
    row.classList.toggle("stale", tag.quality === "bad");
    plot(row, tag);
  }

  // A day from the archive, up to the value of now; of a tag that is not kept the last minutes that are in memory.
  function plot(row, tag) {
    const drawn = row.querySelector(".spark path"), known = days.get(tag.key), now = tag.plot.at(-1);
    const day = tag.numeric && known?.points.length > 1;
    drawn.setAttribute("d", !tag.numeric ? "" : day ? path(now ? [...known.points, [0, now[1]]] : known.points, DAY_SECONDS) : path(tag.plot, LIVE_SECONDS));
    drawn.classList.toggle("live", !day);
    row.querySelector(".spark").title = !tag.numeric ? "" : day ? "Last 24 h" : known?.told ? "Last 5 min: nothing older is kept" : "Last 5 min: what is older was not read yet";
  }

  async function askDays(tags) {
    const wanted = tags.filter((tag) => tag.numeric && !(performance.now() - days.get(tag.key)?.at < DAY_AGE)).slice(0, 30);
    if (asksDays || !wanted.length) return;
    asksDays = true;
    try {
      const answer = await fetch(`/plant/tags/day?${new URLSearchParams(wanted.map((tag) => ["key", tag.key]))}`, { headers: { "HX-Request": "true" }, signal: AbortSignal.timeout(10000) });
      const found = answer.ok ? await answer.json() : {};
      wanted.forEach((tag) => days.set(tag.key, { at: performance.now(), told: tag.key in found, points: found[tag.key] ?? days.get(tag.key)?.points ?? [] }));
      for (const key of days.keys()) if (days.size > 500) days.delete(key); // the oldest of a long list that was scrolled
    } catch (away) { /* asked again with the next round */ }
    asksDays = false;
  }

  const spacer = (height) => {
    const row = document.createElement("tr");
    row.className = "spacer-row";
    row.setAttribute("aria-hidden", "true");
    row.innerHTML = `<td colspan="8"></td>`;
    row.firstChild.style.height = `${height}px`;
    return row;
  };

  function range() {
    const from = Math.max(0, Math.floor(scroller.scrollTop / ROW) - AHEAD);
    return [from, Math.ceil((scroller.scrollTop + scroller.clientHeight) / ROW) + AHEAD];
  }

  async function fill() {
    const [from, to] = range(), turn = ++asked;
    const values = query();
    values.set("from", from);
    values.set("count", Math.min(500, to - from));
    try {
      // An answer that never comes must not be the last one: it is given up and asked for again.
      current?.abort(); // only the newest question counts
      current = new AbortController();
      const late = setTimeout(() => current.abort(), 5000);
      const answer = await fetch(`/plant/tags?${values}`, { headers: { "HX-Request": "true" }, signal: current.signal });
      clearTimeout(late);
      if (answer.status === 401) { location.href = "/sign-in"; return; }
      if (!answer.ok || turn !== asked) return;
      draw(await answer.json());
    } catch (away) { /* the application is away for a moment; the next round asks again */ }
  }

  function draw(found) {
    total = found.total;
    set(count, `${total.toLocaleString("en-GB")} tag${total === 1 ? "" : "s"}`);
    const narrow = [...form.querySelectorAll("[data-filter]")].some((field) => field.value.trim());
    empty.hidden = total > 0;
    empty.querySelector("[data-empty=narrow]").hidden = !narrow;
    empty.querySelector("[data-empty=none]").hidden = narrow;
    scroller.querySelector("table").hidden = total === 0;
    scroller.querySelector("table").setAttribute("aria-rowcount", total);
    const same = first === found.from && last === found.from + found.rows.length;
    if (!same) {
      const focused = document.activeElement?.closest?.("tr[data-key]")?.dataset.key;
      first = found.from;
      last = found.from + found.rows.length;
      const present = new Map([...body.querySelectorAll("tr[data-key]")].map((row) => [row.dataset.key, row]));
      const drawn = found.rows.map((tag) => present.get(tag.key) ?? make());
      body.replaceChildren(spacer(first * ROW), ...drawn, spacer(Math.max(0, total - last) * ROW));
      found.rows.forEach((tag, i) => show(drawn[i], tag));
      if (focused) body.querySelector(`tr[data-key="${CSS.escape(focused)}"] a`)?.focus({ preventScroll: true });
    } else {
      const drawn = body.querySelectorAll("tr[data-key]");
      found.rows.forEach((tag, i) => show(drawn[i], tag));
    }
    body.querySelectorAll("tr[data-key]").forEach((row, i) => row.setAttribute("aria-rowindex", first + i + 1));
    askDays(found.rows);
  }

  // Ticks: a ticked tag that is not in view travels in a hidden field.
  function ticks() {
    form.querySelectorAll("input[type=hidden][name=tag]").forEach((field) => field.remove());
    for (const key of ticked) form.append(Object.assign(document.createElement("input"), { type: "hidden", name: "tag", value: key }));
    set(document.getElementById("ticked"), ticked.size ? `${ticked.size} ticked` : "");
    const untick = document.getElementById("untick");
    if (untick) untick.hidden = !ticked.size;
    body.querySelectorAll("tr[data-key]").forEach((row) => { row.querySelector("input").checked = ticked.has(row.dataset.key); });
    if (!ticked.size) tickAll.checked = false;
  }

  let anchor = null;
  body.addEventListener("click", (event) => {
    const box = event.target.closest("input[type=checkbox]");
    if (!box) return;
    const all = [...body.querySelectorAll("tr[data-key]")], at = all.indexOf(box.closest("tr"));
    const from = event.shiftKey && anchor !== null ? all.findIndex((row) => row.dataset.key === anchor) : at;
    for (let i = Math.min(from < 0 ? at : from, at); i <= Math.max(from, at); i++) {
      if (box.checked) ticked.add(all[i].dataset.key); else ticked.delete(all[i].dataset.key);
    }
    anchor = box.value;
    ticks();
  });
  tickAll.addEventListener("change", async () => {
    const keys = await (await fetch(`/plant/keys?${query()}`, { headers: { "HX-Request": "true" } })).json();
    keys.forEach((key) => { if (tickAll.checked) ticked.add(key); else ticked.delete(key); });
    ticks();
  });
  document.getElementById("untick")?.addEventListener("click", () => { ticked.clear(); ticks(); });

  let waiting, scrolling;
  form.querySelectorAll("[data-filter]").forEach((field) => field.addEventListener("input", () => {
    clearTimeout(waiting);
    waiting = setTimeout(() => {
      const values = query().toString();
      history.replaceState(null, "", values ? `/plant?${values}` : "/plant");
      scroller.scrollTop = 0;
      tickAll.checked = false;
      fill();
    }, field.tagName === "SELECT" ? 0 : 150);
  }));
  form.addEventListener("keydown", (event) => { if (event.key === "Enter" && event.target.matches("[data-filter]")) event.preventDefault(); });
  scroller.addEventListener("scroll", () => {
    clearTimeout(scrolling);
    const [from, to] = range();
    const inside = from >= first - AHEAD && to <= last + AHEAD && first >= 0;
    scrolling = setTimeout(fill, inside ? 60 : 15);
  });
  async function round() {
    if (!document.hidden) await fill();
    setTimeout(round, 1000);
  }
  round();
})();
