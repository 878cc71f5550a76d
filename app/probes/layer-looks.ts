import type { Layer } from "#server/layers";

/** A layer's state in words, as every list says it. */
export const stateWords = ({ state, overruled, sealed }: Pick<Layer, "state" | "overruled" | "sealed">): string =>
  overruled ? "failed, overruled" : sealed ? "sealed, untested" : state;

/** Ink of a layer's state. */
export const stateInk = ({ state }: Pick<Layer, "state">): string =>
  state === "failed" ? "text-clay-ink" : state === "passed" ? "text-moss-ink" : "text-ink-soft";
