// All that must hold: set-up, types, lint (with the import rule), format, unit tests, end-to-end tests.
import { spawn } from "node:child_process";
import { existsSync } from "node:fs";
import { installPackages, root, run } from "./setup.mjs";

installPackages();

const chromium = process.env.CHROMIUM ?? "/usr/bin/chromium";
if (!existsSync(chromium)) {
  console.error("Installing Chromium for the end-to-end tests (once) …");
  const sudo = process.getuid?.() === 0 ? [] : ["sudo"];
  const apt = (...args) => {
    const [command, ...rest] = [...sudo, "apt-get", ...args];
    return run(command, rest, { env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" } });
  };
  if (!apt("update", "-qq") || !apt("install", "-y", "-qq", "chromium")) {
    console.error(
      "Chromium could not be installed; the output stands above. Install Debian's package chromium, or name another one in CHROMIUM.",
    );
    process.exit(2);
  }
}

const { buildAll } = await import("./build.mjs");
await buildAll();

// none of these uses more than one core
const checks = ["typecheck", "lint", "format:check"].map(
  (name) =>
    new Promise((resolve) => {
      console.error(`${name} …`);
      spawn("npm", ["run", "-s", name], { cwd: root, stdio: ["ignore", 2, 2] }).once("exit", (code) => {
        if (code !== 0) console.error(`${name}: not in order; the output stands above.`);
        resolve(code === 0);
      });
    }),
);
if (!(await Promise.all(checks)).every(Boolean)) process.exit(1);
console.error("tests …");
const args = ["vitest", "run", "--reporter=default", "--reporter=json", "--outputFile.json=.cache/tests.json", ...process.argv.slice(2)];
process.exit(run("npx", args, { cwd: root }) ? 0 : 1);
