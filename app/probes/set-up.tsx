import { useEffect, useMemo, useState } from "react";
import { useFetcher } from "react-router";
import { PROBES } from "#core/probes";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { decimal, duration } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { formOf, inputOf, type FormState } from "./form-state";
import { ProbeForm, type SearchChoice } from "./probe-form";

interface Props {
  version: { id: number };
  kind: string;
  /** markets on which it may run, by symbol, the version's own first */
  markets: readonly { symbol: string; label: string }[];
  market: string;
  searches: readonly SearchChoice[];
  given: Record<string, unknown>;
  onKind: (kind: string) => void;
  /** hears of the probe that was set up; must be stable */
  onMade: (probe: number) => void;
}

type Answer = {
  made?: number;
  problems: { path: string; message: string }[];
  cost?: { units: number; unitName: string; seconds: number };
};

/** A new probe: what it asks, what it needs, the criteria that it is judged by, what it costs. */
export function SetUp({ version, kind: name, markets, market: own, searches, given, onKind, onMade }: Props) {
  const fetcher = useFetcher<Answer>();
  const kind = PROBES.get(name)!;
  const [market, setMarket] = useState(own);
  const [state, setState] = useState<FormState>(() => formOf(kind, null, { search: searches[0]?.search ?? null, ...given }));
  const symbols = useMemo(() => markets.map((one) => one.symbol).filter((symbol) => symbol !== market), [markets, market]);
  const made = fetcher.data?.made;
  useEffect(() => {
    if (made !== undefined) onMade(made);
  }, [made, onMade]);
  const send = (intent: string) =>
    void fetcher.submit(
      { intent, version: String(version.id), kind: name, market, input: JSON.stringify(inputOf(kind, state)) },
      { method: "post" },
    );
  const { cost, problems = [] } = fetcher.data ?? {};
  return (
    <Panel title="A new probe" note={kind.question}>
      <div className="grid grid-cols-2 gap-2">
        <Select
          label="Probe"
          value={name}
          choices={[...PROBES.values()].map((one) => ({ value: one.kind, label: one.name }))}
          onChange={onKind}
        />
        <Select
          label="Market"
          value={market}
          choices={markets.map(({ symbol, label }) => ({ value: symbol, label }))}
          onChange={setMarket}
        />
      </div>
      <div className="mt-2">
        <ProbeForm kind={kind} state={state} onChange={setState} symbols={symbols} searches={searches} />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button look="primary" onClick={() => send("create")} disabled={fetcher.state !== "idle"}>
          Write the criteria down
        </Button>
        <Button onClick={() => send("estimate")} disabled={fetcher.state !== "idle"}>
          What does it cost?
        </Button>
        {cost && (
          <span data-cost={cost.units}>
            {decimal(cost.units, 0)} {cost.unitName}
            {cost.seconds > 0 && `, about ${cost.seconds < 1 ? "a second" : duration(cost.seconds)}`}
          </span>
        )}
      </div>
      <div className="mt-2 empty:hidden">
        <Problems problems={problems} title="The probe can't be set up" />
      </div>
      <p className="mt-2 text-sm text-ink-soft">
        Decide now what would convince you: the criteria are written down before the probe runs, and a result that they were changed after
        is out of date. <span className="font-semibold">What it will not say.</span> {kind.caution}
      </p>
    </Panel>
  );
}
