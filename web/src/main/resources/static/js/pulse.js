"use strict";
// The pulse line: figures come from the one stream that all tabs share; without shared workers a tab in view has its own.
(() => {
  const line = document.getElementById("pulse");
  if (!line) return;
  const show = (html) => { line.innerHTML = html; };
  if (window.SharedWorker) {
    let port = null;
    const join = () => {
      port = new SharedWorker("/js/pulse-worker.js").port;
      port.onmessage = (message) => show(message.data);
      port.start();
    };
    join();
    addEventListener("pagehide", () => port.postMessage("leave"));
    addEventListener("pageshow", (event) => { if (event.persisted) join(); });
    return;
  }
  let source = null;
  const follow = () => {
    if (document.hidden) { source?.close(); source = null; } else if (!source) {
      source = new EventSource("/pulse");
      source.addEventListener("pulse", (event) => show(event.data));
    }
  };
  document.addEventListener("visibilitychange", follow);
  addEventListener("pagehide", () => { source?.close(); source = null; });
  addEventListener("pageshow", follow);
  follow();
})();
