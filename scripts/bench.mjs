// The benchmarks: set up where needed, then measure. One JSON line per measure on standard output.
import { installPackages } from "./setup.mjs";

installPackages();
const { buildNode } = await import("./build-node.mjs");
await buildNode();
await import("../dist/node/bench.js");
