import puppeteer from "puppeteer-core";
const [, , base, ...specs] = process.argv; // name=path[@js]
const b = await puppeteer.launch({
  executablePath: "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
  defaultViewport: { width: 1280, height: 800 },
});
const p = await b.newPage();
p.on("console", (m) => {
  if (["error", "warning"].includes(m.type())) console.log("console", m.type(), m.text().slice(0, 400));
});
p.on("pageerror", (e) => console.log("pageerror", String(e).slice(0, 600)));
for (const s of specs) {
  const [name, rest] = s.split(/=(.*)/s);
  const [path, js] = rest.split("@@");
  await p.goto(base + path, { waitUntil: "networkidle2", timeout: 30000 }).catch((e) => console.log("goto", e.message));
  await new Promise((r) => setTimeout(r, 700));
  if (js) {
    await p.evaluate(js).catch((e) => console.log("js", e.message));
    await new Promise((r) => setTimeout(r, 900));
  }
  await p.screenshot({ path: `/tmp/shots/${name}.png` });
  console.log(name, await p.title());
}
await b.close();
