// What every command needs first: packages as the lock file names them, and nothing when they are there already.
import { spawnSync } from "node:child_process";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { join } from "node:path";
import { createHash } from "node:crypto";

export const root = fileURLToPath(new URL("..", import.meta.url));

/** Runs a command to its end with its output on standard error; gives false where it failed. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: ["ignore", 2, 2], ...options });
  return result.status === 0;
}

/** Installs packages where they are missing or the lock file has changed since. */
export function installPackages() {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 11)) {
    console.error(`Canyon needs Node 20.11 or newer; this is ${process.version}.`);
    process.exit(2);
  }
  const hash = createHash("sha256")
    .update(readFileSync(join(root, "package-lock.json")))
    .digest("hex");
  const marker = join(root, "node_modules/.canyon-installed");
  if (existsSync(marker) && readFileSync(marker, "utf8") === hash) return;
  console.error("Installing packages (once) …");
  if (!run("npm", ["ci", "--no-audit", "--no-fund", "--loglevel=error"])) {
    console.error("npm ci failed; its output stands above.");
    process.exit(2);
  }
  writeFileSync(marker, hash);
}
