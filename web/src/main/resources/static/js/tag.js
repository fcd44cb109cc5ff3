"use strict";
// Cards and forms of the plant: the plot of a tag, picking a tag for a field, a file into a text.
(() => {
  const box = document.getElementById("tag-plot");
  if (box) {
    let plot = null;
    const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
    const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit", timeZone: document.documentElement.dataset.zone });
    const draw = async () => {
      if (!document.hidden) {
        try {
          const answer = await ask(box.dataset.plot);
          if (answer?.ok) {
            const { times, values } = await answer.json();
            if (!plot) {
              const axis = { stroke: colour("--quiet"), grid: { stroke: colour("--line"), width: 1 }, ticks: { stroke: colour("--line") }, font: '12px "Atkinson Hyperlegible Mono"' };
              plot = new uPlot({
                width: box.clientWidth, height: 220, legend: { show: false }, cursor: { y: false },
                scales: { x: { range: () => [Date.now() / 1000 - 600, Date.now() / 1000] } },
                axes: [{ ...axis, values: (self, ticks) => ticks.map((seconds) => clock.format(new Date(seconds * 1000))), space: 90 }, { ...axis, size: 64 }],
                series: [{}, { stroke: colour("--pine"), width: 1.6, spanGaps: false, points: { show: false } }],
              }, [times, values], box);
            } else plot.setData([times, values]);
          }
        } catch (away) { /* asked again */ }
      }
      setTimeout(draw, 2000);
    };
    draw();
  }

  // A picked tag goes where its list says: as a row of inputs, or into the field beside it.
  document.addEventListener("click", (event) => {
    const pick = event.target.closest(".pick");
    if (pick) {
      const list = pick.closest(".picks");
      if (list.dataset.into === "inputs") {
        const rows = document.querySelector("#inputs tbody"), taken = new Set([...rows.querySelectorAll("[name=input-name]")].map((field) => field.value));
        let name = pick.dataset.name;
        for (let n = 2; taken.has(name); n++) name = pick.dataset.name + n;
        const row = document.createElement("tr");
        row.innerHTML = `<td><input class="form-control form-control-sm mono" name="input-name" aria-label="Name in the formula"></td><td><input type="hidden" name="input-tag"><span></span></td><td><button type="button" class="btn btn-link btn-sm danger" data-drop-input>Remove</button></td>`;
        row.querySelector("[name=input-name]").value = name;
        row.querySelector("[name=input-tag]").value = pick.dataset.key;
        row.querySelector("span").textContent = pick.dataset.tag;
        rows.append(row);
        const formula = document.getElementById("f-formula");
        if (!formula.value.trim()) formula.value = name;
      } else {
        const cell = list.closest("[data-pick-cell]");
        cell.querySelector("[data-picked]").value = pick.dataset.key;
        cell.querySelector("[data-picked-name]").textContent = pick.dataset.tag;
      }
      list.replaceChildren();
      const field = list.parentElement.querySelector("input[type=search]");
      if (field) field.value = "";
      document.getElementById("f-formula")?.dispatchEvent(new Event("input", { bubbles: true }));
    }
    if (event.target.closest("[data-drop-input]")) {
      event.target.closest("tr").remove();
      document.getElementById("f-formula")?.dispatchEvent(new Event("input", { bubbles: true }));
    }
    const clear = event.target.closest("[data-clear-pick]");
    if (clear) {
      const cell = clear.closest("[data-pick-cell]");
      cell.querySelector("[data-picked]").value = "";
      cell.querySelector("[data-picked-name]").textContent = "";
    }
  });

  document.addEventListener("change", async (event) => {
    if (event.target.matches("input[type=file][data-into]") && event.target.files[0]) {
      document.getElementById(event.target.dataset.into).value = await event.target.files[0].text();
    }
  });
})();
