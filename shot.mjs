import { launchBrowser } from "./scripts/browser.mjs";
const browser = await launchBrowser();
const page = await browser.newPage();
page.on("console", (m) => { if (m.type() === "error") console.log("ERR", m.text().slice(0, 300)); });
page.on("pageerror", (e) => console.log("PAGEERR", e.message.slice(0, 300)));
const ready = async () => { await page.waitForSelector('canvas[data-ready="true"]', { timeout: 120000 }); await new Promise(r => setTimeout(r, 900)); };
const click = async (text, nth = 0) => {
  const ok = await page.evaluate(({ text, nth }) => {
    const all = [...document.querySelectorAll("button, [role=option]")].filter((b) => (b.textContent.trim() === text || b.getAttribute("aria-label") === text) && !b.disabled);
    if (!all[nth]) return false; all[nth].scrollIntoView({ block: "center" }); all[nth].click(); return true;
  }, { text, nth });
  if (!ok) console.log("no button", text);
  await new Promise(r => setTimeout(r, 400));
};
const idle = async () => { for (let i = 0; i < 600; i++) { const busy = await page.evaluate(async (id) => { const a = await (await fetch("/api/assets/" + id)).json(); return a.jobs.some((j) => ["running", "queued"].includes(j.state)); }, globalThis.assetId); if (!busy) break; await new Promise(r => setTimeout(r, 300)); } await ready(); };
const open = async (id, store = {}) => { globalThis.assetId = id; await page.goto("http://127.0.0.1:3111/"); await page.evaluate(({ id, store }) => localStorage.setItem("arnik.view." + id, JSON.stringify(store)), { id, store }); await page.goto("http://127.0.0.1:3111/asset/" + id); await ready(); };
const shot = (name) => page.screenshot({ path: `/tmp/shots/${name}.png` });
const script = process.argv[2];
await (await import(script)).default({ page, click, idle, open, shot, ready });
await browser.close();
