// How often versions with and without an edge pass the probes and the shipped cascades: `--markets N` of each kind (200).
import { installPackages } from "./setup.mjs";

installPackages();
const { buildNode } = await import("./build-node.mjs");
await buildNode();
await import("../dist/node/calibrate.js");
