// Gives each frame of the almanac the height of what is in it. Works for frames that are there when it runs; without it they keep theirs.
(() => {
  const home = new URL(document.currentScript.src).origin;
  addEventListener("message", event => {
    if (event.origin !== home || event.data?.almanac !== "height") return;
    for (const frame of document.querySelectorAll("iframe"))
      if (frame.contentWindow === event.source) frame.style.height = `${Math.min(4000, Math.max(40, Number(event.data.height) || 0))}px`;
  });
  // What a frame told before this ran, nobody heard: it is asked.
  for (const frame of document.querySelectorAll("iframe"))
    if (frame.src.startsWith(`${home}/`)) frame.contentWindow.postMessage({ almanac: "height" }, "*");
})();
