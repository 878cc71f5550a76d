// Bundles what runs on Node itself: server, its worker threads, command line, benchmarks. Packages stay outside.
import { build } from "esbuild";
import { fileURLToPath } from "node:url";
import { existsSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";

const root = fileURLToPath(new URL("..", import.meta.url));
const out = join(root, "dist/node");
const entries = {
  server: "server/main.ts",
  "trials-worker": "workers/server.worker.ts",
  canyon: "cli/main.ts",
  bench: "bench/main.ts",
  calibrate: "bench/calibrate.ts",
  "bench-worker": "bench/trials.worker.ts",
  seed: "demo/seed.ts",
  feed: "demo/feed/main.ts",
  "canyon-import": "server/importing/command.ts",
};

/** Newest change below a folder, in milliseconds. */
function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    latest = Math.max(latest, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return latest;
}

/** Builds where a source is newer than the last build. */
export async function buildNode() {
  const marker = join(out, "canyon.js");
  const sources = ["core", "server", "workers", "cli", "bench", "demo"].map((folder) => join(root, folder)).filter(existsSync);
  if (existsSync(marker) && statSync(marker).mtimeMs > Math.max(...sources.map(newest))) return;
  await build({
    absWorkingDir: root,
    entryPoints: Object.fromEntries(Object.entries(entries).filter(([, path]) => existsSync(join(root, path)))),
    outdir: out,
    bundle: true,
    platform: "node",
    target: "node20",
    format: "esm",
    packages: "external",
    sourcemap: true,
    alias: { "#core": join(root, "core"), "#server": join(root, "server"), "#demo": join(root, "demo") },
    logLevel: "warning",
  });
}
