// The command line: set up where needed, then hand over.
import { installPackages } from "./setup.mjs";

installPackages();
const { buildNode } = await import("./build-node.mjs");
await buildNode();
// importing works on a data folder, with what the server is made of; everything else needs the core alone
await import(process.argv[2] === "import" ? "../dist/node/canyon-import.js" : "../dist/node/canyon.js");
