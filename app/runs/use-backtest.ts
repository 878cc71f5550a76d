import { useCallback, useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";
import type { Settings, Strategy } from "#core/documents";
import type { RunProblem } from "#core/runs";
import type { BacktestAnswer, BacktestRequest, BacktestView, WhyAnswer, WhyRequest } from "../../workers/protocol";

/** A question without what the page knows already: the number of the answer, the strategy and its settings. */
export type WhyQuestion = WhyRequest extends infer R ? (R extends unknown ? Omit<R, "id" | "strategy" | "settings"> : never) : never;

export interface LiveBacktest {
  /** the newest result; while the input is wrong, the last one that was right */
  view: BacktestView | null;
  problems: RunProblem[];
  failed: string | null;
  /** whether the view is that of the input at hand */
  current: boolean;
  /** the input that the view belongs to, as a text that tells inputs apart */
  of: string | null;
  /** asks the run at hand why; null where nothing can be run */
  ask: (question: WhyQuestion) => Promise<WhyAnswer>;
}

type State = Omit<LiveBacktest, "ask"> & { id: number };

/** Computes a backtest in a web worker whenever strategy or settings change. */
export function useBacktest(strategy: Strategy | null, settings: Settings | null, often = true): LiveBacktest {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const inputs = useRef(new Map<number, string>());
  const waiting = useRef(new Map<number, (answer: WhyAnswer) => void>());
  const [state, setState] = useState<State>({ view: null, problems: [], failed: null, current: false, of: null, id: 0 });

  useEffect(() => {
    const open = waiting.current;
    return () => {
      worker.current?.terminate();
      worker.current = null;
      open.clear();
    };
  }, []);

  const start = useCallback(() => (worker.current ??= startWorker(setState, inputs.current, waiting.current)), []);
  const key = strategy === null || settings === null ? null : JSON.stringify([strategy, settings]);
  useEffect(() => {
    if (key === null) return;
    const [s, t] = JSON.parse(key) as [Strategy, Settings];
    asked.current++;
    inputs.current.set(asked.current, key);
    start().postMessage({ id: asked.current, strategy: s, settings: t, often } satisfies BacktestRequest);
  }, [key, often, start]);

  const latest = useRef(key);
  latest.current = key;
  const ask = useCallback(
    (question: WhyQuestion): Promise<WhyAnswer> => {
      const input = latest.current;
      if (input === null) return Promise.resolve({ id: 0, what: "failed", message: "there is no run to ask" });
      const [s, t] = JSON.parse(input) as [Strategy, Settings];
      const id = ++asked.current;
      return new Promise((resolve) => {
        waiting.current.set(id, resolve);
        start().postMessage({ ...question, id, strategy: s, settings: t } as WhyRequest);
      });
    },
    [start],
  );
  return { ...state, current: state.current && state.of === key && key !== null, ask };
}

/** Made with the first thing to compute: a page that compares has a second one only once there is something to compare. */
function startWorker(
  setState: Dispatch<SetStateAction<State>>,
  inputs: Map<number, string>,
  waiting: Map<number, (answer: WhyAnswer) => void>,
): Worker {
  const own = new Worker(new URL("../../workers/browser.worker.ts", import.meta.url), { type: "module" });
  own.onmessage = (event: MessageEvent<BacktestAnswer | WhyAnswer>) => {
    const answer = event.data;
    if ("what" in answer) {
      waiting.get(answer.id)?.(answer);
      waiting.delete(answer.id);
      return;
    }
    const { id, view, problems } = answer;
    const failed = "failed" in answer ? answer.failed : null;
    const of = inputs.get(id) ?? null;
    for (const old of inputs.keys()) if (old <= id) inputs.delete(old);
    setState((before) => ({ id, view: view ?? before.view, problems, failed, current: view !== null, of: view === null ? before.of : of }));
  };
  own.onerror = (event) => setState((before) => ({ ...before, failed: event.message || "the worker could not start", current: false }));
  return own;
}
