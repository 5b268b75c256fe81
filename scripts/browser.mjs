import { launch } from "puppeteer-core";

/** Headless Chromium from the system, with WebGL in software, at the size the interface is made for. */
export function launchBrowser() {
  return launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    headless: true,
    // What takes longer than this has hung.
    protocolTimeout: 90_000,
    defaultViewport: { width: 1280, height: 800 },
    args: [
      "--no-sandbox",
      "--use-gl=angle",
      "--use-angle=swiftshader",
      "--enable-unsafe-swiftshader",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
    ],
  });
}
