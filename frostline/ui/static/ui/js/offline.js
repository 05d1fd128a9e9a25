// Registers what keeps pages for where there is no connection; a page asked for without one is opened from
// there.
(() => {
  "use strict";
  if (!("serviceWorker" in navigator)) return;
  navigator.serviceWorker.register("/worker.js", { scope: "/" }).catch(() => {});
  const say = (message) => navigator.serviceWorker.controller?.postMessage(message);
  let later;
  document.addEventListener("htmx:afterSettle", (event) => {
    if (event.target?.id !== "page") return;
    clearTimeout(later);
    later = setTimeout(() => say({ keep: location.href }), 1500);
  });
  document.addEventListener("htmx:sendError", (event) => {
    const config = event.detail.requestConfig;
    if (config?.verb === "get" && event.detail.target?.id === "page") location.assign(config.path);
  });
  document.addEventListener("submit", (event) => {
    if (event.target.matches("[data-forget]")) say({ forget: true });
  });
})();
