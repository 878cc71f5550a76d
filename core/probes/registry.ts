import { holdOut } from "./hold-out";
import type { ProbeKind } from "./kind";
import { otherFills } from "./other-fills";
import { otherMarkets } from "./other-markets";
import { otherSources } from "./other-sources";
import { otherTimeframes } from "./other-timeframes";
import { outOfSample } from "./out-of-sample";
import { permutedBarsProbe } from "./permuted-bars";
import { raisedCosts } from "./raised-costs";
import { randomEntries } from "./random-entries";
import { shakenData } from "./shaken-data";
import { shakenParameters } from "./shaken-parameters";
import { shuffledTrades } from "./shuffled-trades";
import { walkForward } from "./walk-forward";
import { walkForwardMapProbe } from "./walk-forward-map";

/** Every kind of probe, in the order in which practitioners run them. Adding one is adding a file and its tests, and naming it here. */
export const PROBES: ReadonlyMap<string, ProbeKind> = new Map(
  [
    outOfSample,
    raisedCosts,
    otherFills,
    shuffledTrades,
    randomEntries,
    shakenParameters,
    otherMarkets,
    otherSources,
    otherTimeframes,
    shakenData,
    walkForward,
    walkForwardMapProbe,
    permutedBarsProbe,
    holdOut,
  ].map((kind) => [kind.kind, kind]),
);
