// Builds what the server needs: the web application, and the bundles that run on Node itself.
import { existsSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { installPackages, root, run } from "./setup.mjs";

const newest = (path) => {
  const stat = statSync(path);
  return stat.isDirectory() ? Math.max(...readdirSync(path).map((name) => newest(join(path, name))), 0) : stat.mtimeMs;
};

/** Builds where a source is newer than the last build. */
export async function buildAll() {
  const built = join(root, "build/server/index.js");
  const sources = ["app", "core", "workers", "server", "public", "vite.config.ts", "react-router.config.ts", "package-lock.json"].map(
    (name) => join(root, name),
  );
  if (!existsSync(built) || statSync(built).mtimeMs < Math.max(...sources.map(newest))) {
    console.error("Building the application …");
    if (!run("npx", ["react-router", "build"], { env: { ...process.env, NODE_ENV: "production" } })) {
      console.error("The build failed; its output stands above.");
      process.exit(2);
    }
  }
  const { buildNode } = await import("./build-node.mjs");
  await buildNode();
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  installPackages();
  await buildAll();
}
