import { useEffect, useState } from "react";
import type { Bars, DatedSeries, Session } from "#core/bars";
import type { DetailLevel } from "../../workers/detail";
import type { BarsAnswer, BarsRequest } from "../../workers/protocol";

/** Bars with their levels of detail, as charts draw them. */
export interface LoadedBars {
  bars: Bars;
  levels: readonly DetailLevel[];
}

export interface FormulaColumn {
  column: Float64Array | null;
  yesNo: boolean;
  problem: string | null;
}

/** A request without the number that finds its answer. */
type Asked<T> = T extends unknown ? Omit<T, "id"> : never;

let worker: Worker | null = null;
let last = 0;
const waiting = new Map<number, (answer: BarsAnswer) => void>();

/** Asks the worker that all charts of the page share. */
function ask(request: Asked<BarsRequest>): Promise<BarsAnswer> {
  if (worker === null) {
    worker = new Worker(new URL("../../workers/bars.worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = (event: MessageEvent<BarsAnswer>) => {
      waiting.get(event.data.id)?.(event.data);
      waiting.delete(event.data.id);
    };
    worker.onerror = (event) => {
      for (const [id, answer] of waiting) answer({ id, what: "failed", message: event.message || "the worker could not start" });
      waiting.clear();
      worker = null;
    };
  }
  const id = ++last;
  return new Promise((resolve) => {
    waiting.set(id, resolve);
    worker!.postMessage({ ...request, id } as BarsRequest);
  });
}

const loaded = new Map<string, Promise<LoadedBars>>();

/** Bars by their hash; loaded and unpacked beside the page's thread. */
export function loadBars(hash: string): Promise<LoadedBars> {
  let known = loaded.get(hash);
  if (known === undefined) {
    known = ask({ what: "load", hash }).then((answer) => {
      if (answer.what !== "load") throw new Error(answer.what === "failed" ? answer.message : "the bars could not be loaded");
      return { bars: answer.bars, levels: answer.levels };
    });
    known.catch(() => loaded.delete(hash));
    loaded.set(hash, known);
    if (loaded.size > 12) loaded.delete(loaded.keys().next().value!);
  }
  return known;
}

/** Bars by hash as a component needs them: null while they load, or an error's text. */
export function useBars(hash: string | null): { bars: Bars | null; levels: readonly DetailLevel[]; error: string | null } {
  const [state, setState] = useState<{ hash: string | null; held: LoadedBars | null; error: string | null }>({
    hash: null,
    held: null,
    error: null,
  });
  useEffect(() => {
    if (hash === null) return;
    let wanted = true;
    loadBars(hash).then(
      (held) => wanted && setState({ hash, held, error: null }),
      (error: Error) => wanted && setState({ hash, held: null, error: error.message }),
    );
    return () => {
      wanted = false;
    };
  }, [hash]);
  const fits = state.hash === hash;
  return {
    bars: fits ? (state.held?.bars ?? null) : null,
    levels: fits ? (state.held?.levels ?? []) : [],
    error: fits ? state.error : null,
  };
}

/** A formula's values on bars, computed beside the page's thread. */
export async function formulaColumn(
  hash: string,
  timeframe: string,
  rule: string,
  market: { session: Session | null; series: Record<string, DatedSeries> },
): Promise<FormulaColumn> {
  const answer = await ask({ what: "formula", hash, timeframe, rule, ...market });
  if (answer.what === "formula") return { column: answer.column, yesNo: answer.yesNo, problem: answer.problem };
  return { column: null, yesNo: false, problem: answer.what === "failed" ? answer.message : "the formula could not be computed" };
}
