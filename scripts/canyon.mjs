// The command line: set up where needed, then hand over.
import { installPackages } from "./setup.mjs";

installPackages();
const { buildNode } = await import("./build-node.mjs");
await buildNode();
await import("../dist/node/canyon.js");
