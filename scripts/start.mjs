// Starts Canyon on the data that is there, without the demo's.
import { installPackages } from "./setup.mjs";

installPackages();
const { buildAll } = await import("./build.mjs");
await buildAll();
process.env.NODE_ENV = "production";
await import("../dist/node/server.js");
