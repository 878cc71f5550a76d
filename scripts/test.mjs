// All that must hold: set-up, types, lint (with the import rule), format, unit tests, end-to-end tests.
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

const steps = [
  ["types", "npm", ["run", "-s", "typecheck"]],
  ["lint", "npm", ["run", "-s", "lint"]],
  ["format", "npm", ["run", "-s", "format:check"]],
];
for (const [name, command, args] of steps) {
  console.error(`${name} …`);
  if (!run(command, args)) {
    console.error(`${name}: not in order; the output stands above.`);
    process.exit(1);
  }
}
console.error("tests …");
const args = ["vitest", "run", "--reporter=default", "--reporter=json", "--outputFile.json=.cache/tests.json", ...process.argv.slice(2)];
process.exit(run("npx", args, { cwd: root }) ? 0 : 1);
