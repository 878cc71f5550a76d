import { useEffect, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { parseTimeframe } from "#core/bars";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import { MarketHead } from "~/markets/head";
import { MarketSelect } from "~/markets/market-select";
import { canShow, PriceStudy, QUICK_TIMEFRAMES } from "~/markets/price-study";
import { FORMULA_COLOURS, MOST_FORMULAS, readStudy, writeStudy, type StudyFormula, type StudyState } from "~/markets/study-state";
import type { Route } from "./+types/market";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol} · Canyon` }];
export const handle = {
  keys: [
    { keys: "1 … 8", what: `timeframes ${QUICK_TIMEFRAMES.join(", ")}` },
    { keys: "← →", what: "pan the chart that has the focus" },
    { keys: "+ −", what: "zoom in and out" },
    { keys: "Home End", what: "to the first and the last bars" },
    { keys: "Shift and drag", what: "measure between two points" },
  ],
};

export async function loader({ context, params }: Route.LoaderArgs) {
  const { markets } = context.services;
  const list = await markets.list();
  const market = list.find((one) => one.symbol === params.symbol);
  if (market === undefined) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  return { market, all: list.map(({ symbol, name, barsHash }) => ({ symbol, name, barsHash })) };
}

export default function MarketPage({ loaderData: { market, all } }: Route.ComponentProps) {
  const [query, setQuery] = useSearchParams();
  const state = readStudy(query);
  const source = market.sources.find((one) => one.id === state.source) ?? market.sources.find((one) => one.isDefault)!;
  const timeframe = state.timeframe !== null && parseTimeframe(state.timeframe) !== null ? state.timeframe : source.timeframe;
  const change = (part: Partial<StudyState>) => setQuery(writeStudy({ ...state, ...part }), { replace: true, preventScrollReset: true });
  const possible = QUICK_TIMEFRAMES.filter((quick) => market.sources.some((one) => canShow(one, quick)));
  const [other, setOther] = useState("");

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input, textarea, [contenteditable], [role=combobox]")) return;
      const quick = QUICK_TIMEFRAMES[Number(event.key) - 1];
      if (quick !== undefined && possible.includes(quick)) change({ timeframe: quick });
    };
    document.addEventListener("keydown", press);
    return () => document.removeEventListener("keydown", press);
  });

  return (
    <>
      <MarketHead
        market={market}
        actions={
          <>
            <Button asChild>
              <a href={`/sources/${source.id}/export?timeframe=${canShow(source, timeframe) ? timeframe : source.timeframe}`} download>
                Save bars as CSV
              </a>
            </Button>
            <Button asChild>
              <a
                href={`/sources/${source.id}/export?packed=gz&timeframe=${canShow(source, timeframe) ? timeframe : source.timeframe}`}
                download
              >
                .csv.gz
              </a>
            </Button>
            <Button asChild look="primary">
              <Link to={`/strategies/new?market=${market.symbol}`}>New strategy on it</Link>
            </Button>
          </>
        }
      />
      <Panel>
        <div className="mb-1 flex flex-wrap items-end gap-x-3 gap-y-2">
          <Select
            label="Source"
            value={String(source.id)}
            choices={market.sources.map((one) => ({
              value: String(one.id),
              label: `${one.name}, ${one.timeframe}, ${decimal(one.count, 0)} bars`,
            }))}
            onChange={(id) => change({ source: Number(id), timeframe: null })}
            className="w-64"
          />
          <div className="flex flex-col gap-0.5">
            <span className="text-sm text-ink-soft">Timeframe</span>
            <div className="flex gap-0.5" role="group" aria-label="Timeframe">
              {possible.map((quick) => (
                <Button
                  key={quick}
                  look={quick === timeframe ? "primary" : "quiet"}
                  aria-pressed={quick === timeframe}
                  onClick={() => change({ timeframe: quick })}
                  className="px-2!"
                >
                  {quick}
                </Button>
              ))}
              <TimeframeField timeframe={timeframe} onChange={(chosen) => change({ timeframe: chosen })} />
            </div>
          </div>
          <Field
            label="Go to date"
            type="date"
            value={state.at ?? ""}
            onChange={(event) => change({ at: event.target.value || null })}
            className="w-38"
          />
          <MarketSelect
            label="Compare with"
            value={other}
            placeholder="a market"
            choices={all
              .filter((one) => one.symbol !== market.symbol && !state.compare.includes(one.symbol))
              .map((one) => ({ value: one.symbol, label: `${one.symbol} ${one.name}` }))}
            onChange={(symbol) => {
              if (symbol !== "") change({ compare: [...state.compare, symbol].slice(0, 4) });
              setOther("");
            }}
            className="w-60"
          />
          {state.compare.map((symbol) => (
            <Button key={symbol} look="quiet" small onClick={() => change({ compare: state.compare.filter((one) => one !== symbol) })}>
              without {symbol}
            </Button>
          ))}
        </div>
        <PriceStudy
          market={market}
          source={source}
          timeframe={timeframe}
          state={state}
          others={all.filter((one) => state.compare.includes(one.symbol))}
        />
        <Formulas formulas={state.formulas} onChange={(formulas) => change({ formulas })} />
      </Panel>
    </>
  );
}

/** Any timeframe at all, typed. */
function TimeframeField({ timeframe, onChange }: { timeframe: string; onChange: (timeframe: string) => void }) {
  const [text, setText] = useState(timeframe);
  useEffect(() => setText(timeframe), [timeframe]);
  const wrong = parseTimeframe(text) === null;
  return (
    <input
      aria-label="Timeframe, typed"
      value={text}
      aria-invalid={wrong || undefined}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => (wrong ? setText(timeframe) : text !== timeframe && onChange(text))}
      onKeyDown={(event) => {
        if (event.key === "Enter" && !wrong) onChange(text);
        if (event.key === "Escape") setText(timeframe);
      }}
      className="figure-text w-14 rounded-[4px] border border-edge bg-sheet px-1.5 py-1 aria-invalid:border-clay"
    />
  );
}

/** Up to four formulas of the rule notation, over the prices or below them. */
function Formulas({ formulas, onChange }: { formulas: readonly StudyFormula[]; onChange: (formulas: StudyFormula[]) => void }) {
  const [draft, setDraft] = useState("");
  const [label, setLabel] = useState("");
  const [place, setPlace] = useState<StudyFormula["place"]>("over");
  const add = () => {
    if (draft.trim() === "") return;
    const used = new Set(formulas.map((formula) => formula.colour));
    const colour = FORMULA_COLOURS.find((one) => !used.has(one)) ?? FORMULA_COLOURS[0];
    onChange([...formulas, { rule: draft.trim(), label: label.trim().replaceAll("|", "/") || draft.trim(), colour, place }]);
    setDraft("");
    setLabel("");
  };
  return (
    <div className="mt-2 border-t border-edge pt-2">
      {formulas.map((formula, i) => (
        <div key={i} className="flex items-center gap-3 py-0.5 text-sm">
          <Select
            label={`Colour of ${formula.label}`}
            hideLabel
            value={formula.colour}
            choices={FORMULA_COLOURS.map((colour) => ({ value: colour, label: colour }))}
            onChange={(colour) =>
              onChange(formulas.map((one, k) => (k === i ? { ...one, colour: colour as StudyFormula["colour"] } : one)))
            }
            className="w-26"
          />
          <span className="font-semibold">{formula.label}</span>
          <code className="figure-text text-ink-soft">{formula.rule}</code>
          <span className="text-ink-soft">{formula.place === "over" ? "over the prices" : "below the prices"}</span>
          <button type="button" className="quiet-link text-ink-soft" onClick={() => onChange(formulas.filter((_, k) => k !== i))}>
            remove
          </button>
        </div>
      ))}
      {formulas.length < MOST_FORMULAS && (
        <form
          className="mt-1 flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            add();
          }}
        >
          <Field
            label="Formula, in the rule notation"
            value={draft}
            onChange={(event) => setDraft(event.target.value)}
            placeholder="sma(close, 50)"
            className="w-72"
          />
          <Field label="Label" value={label} onChange={(event) => setLabel(event.target.value)} className="w-36" />
          <Select
            label="Where"
            value={place}
            choices={[
              { value: "over", label: "over the prices" },
              { value: "below", label: "below the prices" },
            ]}
            onChange={(chosen) => setPlace(chosen as StudyFormula["place"])}
            className="w-40"
          />
          <Button type="submit">Draw it</Button>
        </form>
      )}
    </div>
  );
}
