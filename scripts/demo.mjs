// Everything from a fresh clone to a running Canyon with the demo data: install, build, fill the data folder, start.
import { createServer } from "node:net";
import { spawn, spawnSync } from "node:child_process";
import { join } from "node:path";
import { installPackages, root } from "./setup.mjs";

const port = Number(process.env.PORT ?? 5077);
await new Promise((resolve) => {
  const probe = createServer();
  probe.once("error", (error) => {
    if (error.code === "EADDRINUSE")
      console.error(`Port ${port} is taken by another program. Choose another one: PORT=${port + 1} npm run demo`);
    else console.error(`Port ${process.env.PORT ?? port} can't be used: ${error.message}`);
    process.exit(1);
  });
  probe.listen(port, "127.0.0.1", () => probe.close(resolve));
});

installPackages();
const { buildAll } = await import("./build.mjs");
await buildAll();
console.error("Data …");
const seed = spawnSync("node", [join(root, "dist/node/seed.js")], { cwd: root, stdio: ["ignore", 2, 2] });
if (seed.status !== 0) {
  console.error("The demo data could not be made; the output stands above.");
  process.exit(2);
}
// the simulated data service runs beside Canyon and ends with it
const feed = spawn("node", [join(root, "dist/node/feed.js")], { cwd: root, stdio: ["ignore", 2, 2] });
process.on("exit", () => feed.kill());
process.env.NODE_ENV = "production";
await import("../dist/node/server.js");
