import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Settings, Strategy } from "#core/documents";
import { differences, differencesInWords } from "#core/wording";
import type { TrialLedger } from "#server/strategies";
import type { LiveBacktest } from "~/runs/use-backtest";
import type { BacktestView } from "../../workers/protocol";
import { countedOf, type CountedTry } from "./counted-try";

/** A result that somebody had time to look at. */
export interface Try {
  key: string;
  strategy: Strategy;
  settings: Settings;
  view: BacktestView;
  /** what changed against the try before */
  what: string;
}

/** A result that stood for so long was looked at; what only flashed by under a slider was not. */
const SETTLED = 700;
const KEPT = 60;

/** What changed from one try to the next: rules in words, else the run settings. */
function changeInWords(before: Try | undefined, strategy: Strategy, settings: Settings): string {
  if (before === undefined) return "as it was";
  const rules = differencesInWords(differences(before.strategy, strategy).filter(({ what }) => what !== "notes" && what !== "name"));
  if (rules !== "") return rules;
  const [old, now] = [before.settings, settings];
  const symbols = (given: Settings) => given.markets.map((market) => market.symbol).join(", ");
  if (symbols(old) !== symbols(now)) return `on ${symbols(now)}`;
  if (old.from !== now.from || old.to !== now.to) return `${now.from ?? "start"} to ${now.to ?? "end"}`;
  return "run settings";
}

export interface Tries {
  list: readonly Try[];
  /** the settled try before the one at hand */
  before: Try | null;
  ledger: TrialLedger | null;
  /** counted, but not sent yet, since the strategy has no line to count on */
  unsent: () => CountedTry[];
  /** counts tries that were looked at in another way, as variants side by side are */
  count: (tries: readonly { strategy: Strategy; settings: Settings }[]) => void;
}

/** Follows what is tried while rules are written: every try is a comparison with the one before, and counts as a trial. */
export function useTries(
  live: LiveBacktest,
  strategy: Strategy,
  settings: Settings | null,
  strategyId: number | null,
  start: TrialLedger | null,
): Tries {
  const [list, setList] = useState<readonly Try[]>([]);
  const [ledger, setLedger] = useState<TrialLedger | null>(null);
  const pending = useRef<CountedTry[]>([]);
  const sent = useRef(new Set<string>());

  const send = useCallback(() => {
    if (strategyId === null || pending.current.length === 0) return;
    const going = pending.current;
    pending.current = [];
    // not through the router: counting must not stand in the way of a page that is just being opened
    fetch(`/strategies/${strategyId}/tries`, { method: "POST", body: new URLSearchParams({ tries: JSON.stringify(going) }) })
      .then(async (response) => {
        if (!response.ok) throw new Error(`the server answered ${response.status}`);
        setLedger((await response.json()) as TrialLedger);
      })
      .catch(() => {
        // what could not be counted now is counted with the next try
        pending.current = [...going, ...pending.current];
      });
  }, [strategyId]);
  const count = useCallback(
    (tries: readonly { strategy: Strategy; settings: Settings }[]) => {
      for (const one of tries) {
        const counted = countedOf(one.strategy, one.settings);
        if (sent.current.has(counted.hash)) continue;
        sent.current.add(counted.hash);
        pending.current.push(counted);
      }
      send();
    },
    [send],
  );

  const key = live.current ? live.of : null;
  const held = useRef({ strategy, settings, view: live.view });
  held.current = { strategy, settings, view: live.view };
  useEffect(() => {
    if (key === null) return;
    const timer = setTimeout(() => {
      const now = held.current;
      if (now.settings === null || now.view === null) return;
      const made = { key, strategy: now.strategy, settings: now.settings, view: now.view };
      setList((before) => {
        const others = before.filter((one) => one.key !== key);
        const known = before.find((one) => one.key === key);
        return [...others, known ?? { ...made, what: changeInWords(before.at(-1), made.strategy, made.settings) }].slice(-KEPT);
      });
      count([{ strategy: now.strategy, settings: now.settings }]);
    }, SETTLED);
    return () => clearTimeout(timer);
  }, [key, count]);

  const before = useMemo(() => {
    for (let i = list.length - 1; i >= 0; i--) if (list[i].key !== live.of) return list[i];
    return null;
  }, [list, live.of]);
  return { list, before, ledger: ledger ?? start, unsent: () => pending.current, count };
}
