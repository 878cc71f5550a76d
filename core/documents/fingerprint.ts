import canonicalize from "canonicalize";
import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";
import type { Settings } from "./settings";
import type { Strategy } from "./strategy";

/** Changes whenever a result can change. */
export const ENGINE_VERSION = "3";

/** SHA-256 in hex of a value's canonical JSON (RFC 8785). */
export const hashOf = (value: unknown): string => bytesToHex(sha256(utf8ToBytes(canonicalize(value)!)));

/** A strategy without what can't change its result: name, notes, labels, abouts. */
export function bareStrategy(strategy: Strategy): unknown {
  const { name: _name, notes: _notes, ...rest } = strategy;
  return {
    ...rest,
    parameters: strategy.parameters?.map(({ about: _about, ...parameter }) => parameter),
    definitions: strategy.definitions?.map((definition) => ({
      ...definition,
      variants: definition.variants?.map(({ rule }) => ({ rule })),
    })),
  };
}

/**
 * The fingerprint of a run: equal fingerprints mean equal results to the last bit. In `settings` each market's `bars`
 * must hold the hash of the bars' columns.
 */
export function fingerprintOf(strategies: unknown[], settings: Settings): string {
  const body = strategies.length === 1 ? { strategy: strategies[0] } : { members: strategies };
  return hashOf({ engine: ENGINE_VERSION, ...body, settings });
}
