import { useEffect, useRef, useState } from "react";
import type { LivePortfolio, PortfolioAnswer, PortfolioRequest } from "../../workers/portfolio-protocol";

export interface LiveState {
  /** the newest that could be computed; while the input is wrong, the last one that was right */
  view: LivePortfolio | null;
  problems: { path: string; message: string }[];
  /** whether the view is that of the input at hand */
  current: boolean;
}

/** Computes a portfolio in a web worker whenever it changes. */
export function useLivePortfolio(asked: Omit<PortfolioRequest, "id"> | null): LiveState {
  const worker = useRef<Worker | null>(null);
  const last = useRef(0);
  const [state, setState] = useState<LiveState & { id: number }>({ view: null, problems: [], current: false, id: 0 });
  useEffect(() => () => {
    worker.current?.terminate();
    worker.current = null;
  }, []); // prettier-ignore
  const key = asked === null ? null : JSON.stringify(asked);
  useEffect(() => {
    if (key === null) return;
    if (worker.current === null) {
      worker.current = new Worker(new URL("../../workers/portfolio.worker.ts", import.meta.url), { type: "module" });
      worker.current.onmessage = ({ data: { id, view, problems } }: MessageEvent<PortfolioAnswer>) =>
        setState((before) => ({ id, view: view ?? before.view, problems, current: view !== null }));
    }
    const id = ++last.current;
    worker.current.postMessage({ ...(JSON.parse(key) as Omit<PortfolioRequest, "id">), id } satisfies PortfolioRequest);
  }, [key]);
  return {
    view: state.view,
    problems: key === null ? [] : state.problems,
    current: state.current && state.id === last.current && key !== null,
  };
}
