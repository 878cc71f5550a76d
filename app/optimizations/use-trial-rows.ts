import { useCallback, useEffect, useRef, useState } from "react";
import type { TrialPage, TrialView } from "#server/trials";

/** Rows of one request. */
export const ROWS = 100;

interface Held {
  key: string;
  /** null until the first answer to another question has come */
  count: number | null;
  all: number;
  pages: Map<number, readonly TrialView[]>;
  asked: Set<number>;
}

const begun = (key: string, { rows, count, all }: TrialPage): Held => ({
  key,
  count,
  all,
  pages: new Map([[0, rows]]),
  asked: new Set([0]),
});

/**
 * Rows of a table that the server sorts and filters. The first ones come with the page, for what its address asked then
 * (`firstAsked`); whatever else comes into view, or is asked for another way, is fetched, and what was there before stays
 * in view meanwhile. `stamp` changes when trials have been added, so that what was fetched is fetched anew.
 */
export function useTrialRows(id: number, asked: string, stamp: string, first: TrialPage, firstAsked: string) {
  const key = `${id} ${asked} ${stamp}`;
  const held = useRef<Held>(begun(key, first));
  const shown = useRef<Held>(held.current);
  const last = useRef(first);
  const [problem, setProblem] = useState<string | null>(null);
  const [, redraw] = useState(0);
  if (held.current.key !== key || (last.current !== first && asked === firstAsked)) {
    held.current =
      asked === firstAsked ? begun(key, first) : { key, count: null, all: first.all, pages: new Map(), asked: new Set<number>() };
    last.current = first;
  }
  if (held.current.count !== null) shown.current = held.current;
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
            const answer = (await response.json()) as TrialPage;
            now.pages.set(page, answer.rows);
            now.count = answer.count;
            now.all = answer.all;
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
  useEffect(() => {
    if (held.current.count === null) need(0, 0);
  }, [key, need]);
  const { pages, count, all } = shown.current;
  const rowAt = (index: number): TrialView | undefined => pages.get(Math.floor(index / ROWS))?.[index % ROWS];
  return { rowAt, need, problem, count: count ?? 0, all, current: held.current.count !== null };
}
