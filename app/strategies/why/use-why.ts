import { useEffect, useState } from "react";
import type { Explained } from "#core/rules";
import type { RuleConditions, RuleName } from "#core/runs";
import type { LiveBacktest } from "~/runs/use-backtest";

export interface BarWhy {
  time: number;
  rules: { rule: RuleName; tree: Explained }[];
  position: string;
}

export interface WhyData {
  times: Float64Array;
  rules: RuleConditions[];
}

/** Where every rule's conditions held, in one market of the run at hand; asked for anew whenever the run changes. */
export function useConditions(live: LiveBacktest, symbol: string, wanted: boolean): { data: WhyData | null; problem: string | null } {
  const [state, setState] = useState<{ of: string | null; data: WhyData | null; problem: string | null }>({
    of: null,
    data: null,
    problem: null,
  });
  const of = live.current ? live.of : null;
  const { ask } = live;
  useEffect(() => {
    if (!wanted || of === null) return;
    let over = false;
    void ask({ what: "conditions", symbol }).then((answer) => {
      if (over) return;
      if (answer.what === "conditions") setState({ of, data: { times: answer.times, rules: answer.rules }, problem: null });
      else if (answer.what === "failed") setState({ of, data: null, problem: answer.message });
    });
    return () => {
      over = true;
    };
  }, [of, symbol, wanted, ask]);
  return state;
}

/** Every rule explained at one bar. */
export function useBarWhy(live: LiveBacktest, symbol: string, time: number | null): { bar: BarWhy | null; problem: string | null } {
  const [state, setState] = useState<{ bar: BarWhy | null; problem: string | null }>({ bar: null, problem: null });
  const of = live.current ? live.of : null;
  const { ask } = live;
  useEffect(() => {
    if (time === null || of === null) return;
    let over = false;
    void ask({ what: "bar", symbol, time }).then((answer) => {
      if (over) return;
      if (answer.what === "bar") setState({ bar: { time, rules: answer.rules, position: answer.position }, problem: null });
      else if (answer.what === "failed") setState({ bar: null, problem: answer.message });
    });
    return () => {
      over = true;
    };
  }, [of, symbol, time, ask]);
  return state;
}
