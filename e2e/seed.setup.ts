import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

/** The demo's data, seeded once for all end-to-end tests; each of their servers works on a copy. */
export default function setup(): () => void {
  const folder = mkdtempSync(join(tmpdir(), "canyon-e2e-seed-"));
  const seed = spawnSync("node", [fileURLToPath(new URL("../dist/node/seed.js", import.meta.url))], {
    env: { ...process.env, CANYON_DATA: folder },
    stdio: ["ignore", "ignore", "inherit"],
  });
  if (seed.status !== 0) throw new Error(`seeding ended with ${seed.status}`);
  process.env.CANYON_E2E_SEED = folder;
  return () => rmSync(folder, { recursive: true, force: true });
}
