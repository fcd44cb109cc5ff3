"use strict";
// Keys, confirmations and small page habits. No page depends on them: everything also works by focus and Enter.
(() => {
  const workspaces = ["/plant", "/records", "/review", "/deliver", "/watch"];
  const typing = (target) => target.closest("input:not([type=checkbox]), select, textarea, [contenteditable]");
  const rows = () => [...document.querySelectorAll("main table.list tbody tr")].filter((row) => row.querySelector("[data-open], input[type=checkbox]"));

  function step(by) {
    const all = rows();
    if (!all.length) return;
    const at = all.findIndex((row) => row.classList.contains("at"));
    all.forEach((row) => row.classList.remove("at"));
    const next = all[Math.max(0, Math.min(all.length - 1, at + by))];
    next.classList.add("at");
    next.scrollIntoView({ block: "nearest" });
    next.querySelector("[data-open], input[type=checkbox]").focus();
  }

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey && event.key === "Enter" && event.target.matches("textarea.sql")) document.querySelector("[data-key=t]")?.click();
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape") {
      const leave = document.querySelector("[data-leave]") ?? [...document.querySelectorAll(".crumb a")].at(-1);
      if (typing(event.target)) event.target.blur();
      else if (document.getElementById("column-editor")?.firstElementChild) document.getElementById("column-editor").replaceChildren();
      else if (leave) location.href = leave.href;
      return;
    }
    if (event.key === "Enter" && event.target.dataset?.enter) {
      // A field among several buttons has one that it means; the form's first one is another's.
      event.preventDefault();
      document.getElementById(event.target.dataset.enter).click();
      return;
    }
    if (typing(event.target)) return;
    if (workspaces[event.key - 1]) location.href = workspaces[event.key - 1];
    else if (event.key === "/") document.getElementById("finder")?.focus();
    else if (event.key === "r") location.href = "/release";
    else if (event.key === "j") step(1);
    else if (event.key === "k") step(-1);
    else if (event.key === "?") document.getElementById("keys")?.showModal();
    else if (["n", "e", "t"].includes(event.key)) document.querySelector(`[data-key="${event.key}"]`)?.click();
    else return;
    event.preventDefault();
  });

  // A part that refreshes itself waits while a button of the mouse is down, so that no click is lost between two pictures.
  let pressed = false;
  document.addEventListener("pointerdown", () => { pressed = true; }, true);
  document.addEventListener("pointerup", () => setTimeout(() => { pressed = false; }, 50), true);
  document.addEventListener("pointercancel", () => { pressed = false; }, true);
  document.addEventListener("htmx:beforeSwap", (event) => {
    const polled = event.detail.requestConfig?.triggeringEvent === undefined && event.detail.elt.getAttribute?.("hx-trigger")?.includes("every");
    if (polled && pressed) event.detail.shouldSwap = false;
  });

  // An edit draws a part of the page; its head counts what is unreleased.
  document.addEventListener("htmx:afterRequest", (event) => {
    const unreleased = event.detail.xhr?.getResponseHeader("X-Unreleased");
    const head = document.getElementById("unreleased");
    if (!unreleased || !head) return;
    head.textContent = unreleased === "0" ? "Nothing unreleased" : `Unreleased changes (${unreleased})`;
    head.classList.toggle("some", unreleased !== "0");
  });

  // Who waited for long work goes on to what came of it; asked once, for the page there may take its time.
  document.addEventListener("htmx:afterSettle", () => {
    const over = document.querySelector("[data-goes-on]");
    if (!over) return;
    const page = over.dataset.goesOn;
    delete over.dataset.goesOn;
    window.location.assign(page);
  });

  document.addEventListener("change", (event) => {
    if (event.target.matches("input[form=review]")) {
      const ticked = [...document.querySelectorAll("input[form=review]:checked")].reduce((sum, box) => sum + Number(box.dataset.counts ?? 1), 0);
      const release = document.getElementById("release");
      release.textContent = `Release ${ticked} ${ticked === 1 ? "change" : "changes"}`;
      release.disabled = ticked === 0;
    }
    if (event.target.matches("[data-submits]")) event.target.form.requestSubmit();
    if (!event.target.matches("[data-tick-all]")) return;
    event.target.closest("form").querySelectorAll("input[type=checkbox]:not([name=all])").forEach((box) => { box.checked = event.target.checked; });
  });

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-confirm], [data-keys], [data-close]");
    if (!button) return;
    if (button.dataset.confirm && !window.confirm(button.dataset.confirm)) event.preventDefault();
    if ("keys" in button.dataset) document.getElementById("keys").showModal();
    if (button.dataset.close) document.getElementById(button.dataset.close).replaceChildren();
  });

  // An address of this application in full, as somebody else needs it.
  document.querySelectorAll("[data-own-address]").forEach((field) => {
    field.value = location.origin + field.value;
    field.addEventListener("focus", () => field.select());
  });
})();
