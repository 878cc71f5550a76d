import { createServer } from "node:http";
import { join, resolve } from "node:path";
import { pathToFileURL } from "node:url";
import pino from "pino";
import type { ServerBuild } from "react-router";
import { createApp } from "./app";
import { poolExecutor } from "./jobs/pool";
import { openServices } from "./services";

const root = resolve(import.meta.dirname, "../..");
const port = Number(process.env.PORT ?? 5077);
const folder = resolve(process.env.CANYON_DATA ?? join(root, "data"));
const log = pino({ level: process.env.CANYON_LOG ?? "warn" }, pino.destination(2));

if (!Number.isInteger(port) || port < 1 || port > 65535) {
  console.error(`PORT must be a number from 1 to 65535; it is “${process.env.PORT}”.`);
  process.exit(1);
}

const services = await openServices(
  folder,
  join(root, "server/db/migrations"),
  poolExecutor(join(import.meta.dirname, "trials-worker.js"), folder),
  log,
);
const build = (await import(pathToFileURL(join(root, "build/server/index.js")).href)) as ServerBuild;
const server = createServer(createApp(services, build, port, join(root, "build/client")));

server.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code === "EADDRINUSE")
    console.error(`Port ${port} is taken by another program. Choose another one: PORT=${port + 1} npm run demo`);
  else if (error.code === "EACCES")
    console.error(`Port ${port} may not be used by this user. Choose one above 1023: PORT=5077 npm run demo`);
  else console.error(`The server could not start: ${error.message}`);
  process.exit(1);
});

server.listen(port, "127.0.0.1", async () => {
  await services.imports.finishPending();
  await services.jobs.start();
  await services.updates.schedule();
  console.log(`Canyon is at http://127.0.0.1:${port}  (data in ${folder}; Ctrl-C stops it)`);
});

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  server.close();
  server.closeAllConnections();
  await services.close();
  process.exit(0);
}
process.on("SIGINT", () => void stop());
process.on("SIGTERM", () => void stop());
