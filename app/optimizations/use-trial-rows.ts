import { useCallback, useEffect, useRef, useState } from "react";
import type { TrialPage, TrialView } from "#server/trials";

/** Rows of one request. */
export const ROWS = 100;

interface Held {
  key: string;
  pages: Map<number, readonly TrialView[]>;
  asked: Set<number>;
}

/**
 * Rows of a table that the server sorts and filters: the first ones come with the page, others are fetched when they come
 * into view. `stamp` changes when trials have been added, so that what was fetched is fetched anew.
 */
export function useTrialRows(id: number, asked: string, stamp: string, first: TrialPage) {
  const key = `${id} ${asked} ${stamp}`;
  const held = useRef<Held>({ key, pages: new Map([[0, first.rows]]), asked: new Set([0]) });
  const [problem, setProblem] = useState<string | null>(null);
  const [, redraw] = useState(0);
  const last = useRef(first);
  if (held.current.key !== key || last.current !== first) {
    held.current = { key, pages: new Map([[0, first.rows]]), asked: new Set([0]) };
    last.current = first;
  }
  const alive = useRef(true);
  useEffect(() => {
    alive.current = true;
    return () => void (alive.current = false);
  }, []);
  const need = useCallback(
    (from: number, to: number) => {
      const now = held.current;
      for (let page = Math.floor(from / ROWS); page <= Math.floor(to / ROWS); page++) {
        if (now.asked.has(page)) continue;
        now.asked.add(page);
        void fetch(`/optimizations/${id}/trials?${asked}&from=${page * ROWS}&count=${ROWS}`)
          .then(async (response) => {
            if (!response.ok) throw new Error(`the server answered ${response.status}`);
            now.pages.set(page, ((await response.json()) as TrialPage).rows);
            if (alive.current && held.current === now) {
              setProblem(null);
              redraw((n) => n + 1);
            }
          })
          .catch((error: unknown) => {
            now.asked.delete(page);
            if (alive.current) setProblem(`Some rows could not be fetched: ${(error as Error).message}. Scroll on to try again.`);
          });
      }
    },
    [id, asked],
  );
  const rowAt = (index: number): TrialView | undefined => held.current.pages.get(Math.floor(index / ROWS))?.[index % ROWS];
  return { rowAt, need, problem };
}
