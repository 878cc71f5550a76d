import type { Bars } from "#core/bars";
import type { DocumentProblem, Settings, Strategy } from "#core/documents";
import { judgeFinding, PROBES, type ProbeContext, type ProbeInput, type ProbeKind, type ProbeOutcome } from "#core/probes";
import type { ChunkTools, ChunkWork, StreamWork } from "./jobs/protocol";

/** Everything that a probe rests on, as plain values; bars are named by hash in the settings. */
export interface ProbeWork {
  probeId: number;
  kind: string;
  input: ProbeInput;
  strategy: Strategy;
  settings: Settings;
  /** other settings on which it runs as well */
  others: { name: string; settings: Settings }[];
}

/** Hashes of all bars of a probe: its own, then those of the others. */
export const barsOfProbe = ({ settings, others }: Pick<ProbeWork, "settings" | "others">): string[] =>
  [settings, ...others.map((one) => one.settings)].flatMap(({ markets }) => markets.map((market) => market.bars));

/** Whether a probe looks behind a seal. */
export const opensSeal = ({ kind }: Pick<ProbeWork, "kind">): boolean => PROBES.get(kind)!.needs === "sealed";

/** What the core is given, from bars in the order of `barsOfProbe`. */
export function probeContext({ strategy, settings, others }: Omit<ProbeWork, "probeId">, bars: readonly Bars[]): ProbeContext {
  let at = settings.markets.length;
  return {
    strategy,
    settings,
    bars: bars.slice(0, at),
    others: others.map((one) => ({ ...one, bars: bars.slice(at, (at += one.settings.markets.length)) })),
  };
}

interface Prepared {
  kind: ProbeKind;
  value: unknown;
}

function ready(work: ProbeWork, bars: readonly Bars[]): Prepared {
  const kind = PROBES.get(work.kind)!;
  const { value, problems } = kind.prepare(work.input, probeContext(work, bars));
  // it was checked before it was queued; what is wrong now is told as it is
  if (problems.length > 0) throw new Error(problems.map(({ message }) => message).join("; "));
  return { kind, value };
}

/** The units of a probe, chunk by chunk. */
export const probeWork: ChunkWork<ProbeWork, unknown[]> = {
  kind: "probe",
  opens: opensSeal,
  prepare: ready,
  compute: (prepared, _work, from, to) => {
    const { kind, value } = prepared as Prepared;
    return Array.from({ length: to - from }, (_, k) => kind.compute(value, from + k));
  },
};

const barsFor = (work: ProbeWork, tools: ChunkTools): Promise<Bars[]> => {
  const read = opensSeal(work) ? tools.openedBars : tools.bars;
  return Promise.all(barsOfProbe(work).map((hash) => read(hash)));
};

export interface ProbeCheck {
  problems: DocumentProblem[];
  units: number;
  unitName: string;
  /** seconds that all units would take on one thread, from a few that were computed */
  seconds: number;
}

/** Milliseconds after which a check has measured enough. */
const MEASURING = 250;

/** What is wrong with a probe before it runs, how much work it is, and how long that takes. */
export const probeCheckStream: StreamWork<ProbeWork & { measured: boolean }, ProbeCheck> = {
  kind: "probe-check",
  async stream(work, tools) {
    const kind = PROBES.get(work.kind)!;
    const { value, problems } = kind.prepare(work.input, probeContext(work, await barsFor(work, tools)));
    if (problems.length > 0) return { problems, units: 0, unitName: kind.unitName, seconds: 0 };
    const units = kind.units(value);
    let [done, began] = [0, performance.now()];
    if (work.measured)
      for (; done < units && performance.now() - began < MEASURING; done++) {
        // the first one makes columns that the others find
        if (done === 1) began = performance.now();
        kind.compute(value, done);
      }
    const each = done === 0 ? 0 : (performance.now() - began) / Math.max(1, done - (done > 1 ? 1 : 0)) / 1000;
    return { problems: [], units, unitName: kind.unitName, seconds: each * units };
  },
};

/** The outcome of a probe whose units are all there. */
export const probeConclusionStream: StreamWork<ProbeWork & { units: unknown[] }, ProbeOutcome> = {
  kind: "probe-conclusion",
  async stream({ units, ...work }, tools) {
    const { kind, value } = ready(work, await barsFor(work, tools));
    return judgeFinding(kind, work.input, kind.conclude(value, units));
  },
};
