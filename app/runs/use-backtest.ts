import { useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";
import type { Settings, Strategy } from "#core/documents";
import type { RunProblem } from "#core/runs";
import type { BacktestAnswer, BacktestRequest, BacktestView } from "../../workers/protocol";

export interface LiveBacktest {
  /** the newest result; while the input is wrong, the last one that was right */
  view: BacktestView | null;
  problems: RunProblem[];
  failed: string | null;
  /** whether the view is that of the input at hand */
  current: boolean;
}

/** Computes a backtest in a web worker whenever strategy or settings change. */
export function useBacktest(strategy: Strategy | null, settings: Settings | null, often = true): LiveBacktest {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const [state, setState] = useState<LiveBacktest & { id: number }>({ view: null, problems: [], failed: null, current: false, id: 0 });

  useEffect(
    () => () => {
      worker.current?.terminate();
      worker.current = null;
    },
    [],
  );

  const key = strategy === null || settings === null ? null : JSON.stringify([strategy, settings]);
  useEffect(() => {
    if (key === null) return;
    const [s, t] = JSON.parse(key) as [Strategy, Settings];
    asked.current++;
    worker.current ??= startWorker(setState);
    worker.current.postMessage({ id: asked.current, strategy: s, settings: t, often } satisfies BacktestRequest);
  }, [key, often]);

  return { ...state, current: state.current && state.id === asked.current && key !== null };
}

/** Made with the first thing to compute: a page that compares has a second one only once there is something to compare. */
function startWorker(setState: Dispatch<SetStateAction<LiveBacktest & { id: number }>>): Worker {
  const own = new Worker(new URL("../../workers/browser.worker.ts", import.meta.url), { type: "module" });
  own.onmessage = (event: MessageEvent<BacktestAnswer>) => {
    const { id, view, problems } = event.data;
    const failed = "failed" in event.data ? event.data.failed : null;
    setState((before) => ({ id, view: view ?? before.view, problems, failed, current: view !== null }));
  };
  own.onerror = (event) => setState((before) => ({ ...before, failed: event.message || "the worker could not start", current: false }));
  return own;
}
