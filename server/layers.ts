import type { ProbeView } from "./probe-views";

/** The states of evidence. */
export type Evidence = "untested" | "passed" | "failed" | "out of date";

/** One layer of the strata. */
export interface Layer {
  name: string;
  state: Evidence;
  /** a failure that somebody went on in spite of */
  overruled: boolean;
  /** whether it waits behind a seal */
  sealed: boolean;
  /** bars that the verdict rests on */
  weight: number;
  id: number;
}

export const layerOf = (probe: ProbeView): Layer => ({
  id: probe.id,
  name: probe.name,
  state: probe.state,
  overruled: probe.overruled !== null,
  sealed: probe.kind === "holdOut" && probe.outcome === null,
  weight: probe.outcome?.weight ?? 500,
});
