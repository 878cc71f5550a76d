// Which names are functions: the registry fills this set before the first parse, the tokenizer asks it.
import { FunctionName } from "./parser.terms.js";

/** @type {Set<string>} */
export const functionNames = new Set();

/** @param {string} name */
export const functionName = (name) => (functionNames.has(name) ? FunctionName : -1);
