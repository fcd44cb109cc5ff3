"use strict";
// What a page asks the application for: two requests under way at most, edits before what refreshes itself, and no edit
// that is heard by nobody. Loaded before anything else, so that it hears what happens before the other scripts are there.
(() => {
  const MOST = 2, AGAIN_MILLIS = 3000;
  const underWay = new Set(), edits = [], early = [];
  let ready = false;

  const refreshes = (detail) => detail.verb === "get" && !detail.triggeringEvent && (detail.elt.getAttribute("hx-trigger") || "").includes("every");

  const done = (request) => { underWay.delete(request); const next = edits.shift(); if (next) next(); };

  // Each page that is loaded has a name of its own, so that an edit from another window of the same person is told from one of this page.
  const page = Math.random().toString(36).slice(2) + Date.now().toString(36);
  document.addEventListener("htmx:configRequest", (event) => { event.detail.headers["X-Page"] = page; });

  // A page's own fetches pass here, too. Gives nothing back where others are under way: the caller asks again later.
  window.ask = async (address) => {
    if (document.hidden || underWay.size > 0) return null;
    const mark = {};
    underWay.add(mark);
    try { return await fetch(address, { headers: { "HX-Request": "true" } }); } finally { done(mark); }
  };

  document.addEventListener("htmx:confirm", (event) => {
    const detail = event.detail;
    if (refreshes(detail)) {
      if (document.hidden || underWay.size > 0) event.preventDefault();
    } else if (underWay.size >= MOST) {
      event.preventDefault();
      edits.push(() => detail.issueRequest(true));
    }
  });
  document.addEventListener("htmx:beforeSend", (event) => {
    const request = event.detail.xhr;
    underWay.add(request);
    request.addEventListener("loadend", () => done(request));
  });

  // Nobody listens before the page's scripts are there: what was changed or sent until then is said again afterwards.
  const listens = (target) => target.closest?.("[hx-post]");
  document.addEventListener("change", (event) => { if (!ready && listens(event.target)) early.push(["change", event.target]); }, true);
  document.addEventListener("submit", (event) => { if (!ready && listens(event.target)) { event.preventDefault(); early.push(["submit", event.target]); } }, true);
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("button[hx-get], button[hx-post]");
    if (!ready && button) early.push(["click", button]);
  }, true);
  document.addEventListener("DOMContentLoaded", () => setTimeout(() => {
    ready = true;
    document.documentElement.dataset.ready = "yes";
    early.splice(0).forEach(([kind, target]) => target.isConnected && (kind === "click" ? target.click() : target.dispatchEvent(new Event(kind, { bubbles: true, cancelable: true }))));
  }));

  // An edit that did not arrive says so where it was made, and is sent again until it is heard.
  const unheard = (event) => {
    const detail = event.detail, form = detail.elt;
    if (detail.requestConfig?.verb !== "post" || !form.isConnected) return;
    let note = form.querySelector(":scope > .unsaved");
    if (!note) {
      note = document.createElement("p");
      note.className = "unsaved field-problem";
      note.setAttribute("role", "alert");
      form.append(note);
    }
    note.textContent = "Not saved yet: the application does not answer. It is sent again by itself.";
    setTimeout(() => form.isConnected && htmx.trigger(form, (form.getAttribute("hx-trigger") || "submit").split(/[ ,]/)[0]), AGAIN_MILLIS);
  };
  document.addEventListener("htmx:sendError", unheard);
  document.addEventListener("htmx:timeout", unheard);
  document.addEventListener("htmx:beforeOnLoad", (event) => event.detail.elt.querySelector?.(":scope > .unsaved")?.remove());
})();
