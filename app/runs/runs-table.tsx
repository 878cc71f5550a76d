import { Pin } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { Link, useFetcher, useNavigate } from "react-router";
import { METRICS } from "#core/metrics";
import type { RunSummary } from "#server/runs";
import { useAddress } from "~/design/use-address";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { dateText, metricText, momentText } from "~/design/format";
import { SortHead } from "~/design/sort-head";
import { Sparkline } from "~/design/sparkline";
import { isTyping } from "~/shell/keys";
import { MetricChoice } from "./metric-choice";

const COLUMNS = ["netPercent", "profitFactor", "profitToDrawdown", "maxDrawdownPercent", "trades"];

interface Props {
  runs: readonly RunSummary[];
  /** whether runs of several strategies stand here */
  several?: boolean;
}

/** What is looked for in a run: names, markets, notes and tags. */
const wordsOf = (run: RunSummary): string =>
  [
    run.strategyName,
    `run ${run.number}`,
    `v${run.versionNumber}`,
    ...run.settings.markets.map((market) => market.symbol),
    run.note,
    ...run.tags,
    run.under?.name ?? "",
  ]
    .join(" ")
    .toLowerCase();

/** Stored runs: found by words, sorted by any figure, pinned, noted, tagged, and set beside each other. Its state is in the address. */
export function RunsTable({ runs, several = false }: Props) {
  const { params, set: write } = useAddress();
  const [marked, setMarked] = useState<number[]>([]);
  const navigate = useNavigate();
  const find = (params.get("find") ?? "").toLowerCase();
  const sort = params.get("sort") ?? "-stored";
  const extra = params.get("also");
  const columns = extra !== null && extra in METRICS && !COLUMNS.includes(extra) ? [...COLUMNS, extra] : COLUMNS;
  const set = (key: string, value: string | null) => write(key, value || null);
  const rows = useMemo(() => {
    const key = sort.replace(/^-/, "");
    const sign = sort.startsWith("-") ? -1 : 1;
    const value = (run: RunSummary): number => (key === "stored" ? run.createdAt : (run.metrics.all[key] ?? NaN));
    return runs
      .filter((run) => find.split(" ").every((word) => wordsOf(run).includes(word)))
      .sort((a, b) => {
        const [x, y] = [value(a), value(b)];
        const missing = Number(Number.isNaN(x)) - Number(Number.isNaN(y));
        return Number(b.pinned) - Number(a.pinned) || missing || sign * (x - y) || b.id - a.id;
      });
  }, [runs, find, sort]);
  const address = `/runs/compare?runs=${marked.join(",")}`;
  const able = marked.length >= 2 && marked.length <= 8;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== "c" || event.ctrlKey || event.metaKey || event.altKey || isTyping(event) || !able) return;
      event.preventDefault();
      void navigate(address);
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [able, address, navigate]);
  const head = (key: string, label: string) => (
    <SortHead key={key} column={key} sort={sort} onSort={(next) => set("sort", next)}>
      {label}
    </SortHead>
  );
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <Field
          className="w-72"
          label="Find by strategy, market, note or tag"
          value={params.get("find") ?? ""}
          onChange={(event) => set("find", event.target.value)}
        />
        <MetricChoice label="One more figure" value={extra} onChange={(key) => set("also", key)} />
        <p className="pb-1 text-ink-soft">
          {rows.length} of {runs.length} runs
        </p>
        <Button
          className="ml-auto"
          disabled={!able}
          onClick={() => void navigate(address)}
          title={marked.length > 8 ? "at most eight" : "C"}
        >
          {marked.length < 2 ? "Mark two to compare" : `Compare ${marked.length}`}
        </Button>
      </div>
      <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet" tabIndex={0} role="region" aria-label="Runs">
        <table className="w-full border-collapse">
          <thead className="text-sm text-ink-soft">
            <tr>
              <th scope="col" className="pl-3">
                <span className="sr-only">marked, pinned</span>
              </th>
              {["run", "market, dates", "equity"].map((label) => (
                <th key={label} scope="col" className="px-2 py-2 text-left font-normal">
                  {label}
                </th>
              ))}
              {columns.map((key) => head(key, METRICS[key].label.toLowerCase() + (METRICS[key].unit === "percent" ? ", %" : "")))}
              <th scope="col" className="px-2 py-2 text-left font-normal">
                note, tags
              </th>
              {head("stored", "stored")}
            </tr>
          </thead>
          <tbody>
            {rows.map((run) => (
              <tr key={run.id} className="border-t border-edge hover:bg-shade/50">
                <td className="pl-3 whitespace-nowrap">
                  <input
                    type="checkbox"
                    aria-label={`Mark ${several ? `${run.strategyName}, ` : ""}run ${run.number}`}
                    checked={marked.includes(run.id)}
                    onChange={(event) =>
                      setMarked((before) => (event.target.checked ? [...before, run.id] : before.filter((id) => id !== run.id)))
                    }
                  />
                  <PinButton run={run} />
                </td>
                <th scope="row" className="px-2 py-1.5 text-left font-normal whitespace-nowrap">
                  <Link to={`/runs/${run.id}`} className="font-semibold no-underline hover:underline">
                    {several ? `${run.strategyName}, run ${run.number}` : `run ${run.number}`}
                  </Link>
                  <span className="block text-xs text-ink-soft">
                    v{run.versionNumber}
                    {run.under !== null && `, ${run.under.name} v${run.under.number}`}
                  </span>
                </th>
                <td className="px-2">
                  {run.settings.markets
                    .slice(0, 3)
                    .map((market) => market.symbol)
                    .join(", ")}
                  {run.settings.markets.length > 3 && ` and ${run.settings.markets.length - 3} more`}
                  <span className="figure-text block text-xs whitespace-nowrap text-ink-soft">
                    {run.settings.from ?? "start"} to {run.settings.to ?? "end"}
                  </span>
                </td>
                <td className="px-2">
                  <Sparkline values={run.outline} base={run.settings.capital} label={`Equity of run ${run.number}`} />
                </td>
                {columns.map((key) => (
                  <td key={key} className="figure-text px-2 text-right">
                    {metricText(key, run.metrics.all[key] ?? null)}
                  </td>
                ))}
                <td className="px-2">
                  <Note run={run} />
                </td>
                <td className="figure-text px-2 text-right whitespace-nowrap" title={momentText(run.createdAt)}>
                  {dateText(run.createdAt)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {rows.length === 0 && <p className="px-3 py-4 text-ink-soft">No run has these words in it.</p>}
      </div>
    </>
  );
}

function PinButton({ run }: { run: RunSummary }) {
  const fetcher = useFetcher();
  return (
    <button
      type="button"
      aria-label={`${run.pinned ? "Unpin" : "Pin"} run ${run.number} of ${run.strategyName}`}
      aria-pressed={run.pinned}
      title={run.pinned ? "pinned to the top" : "pin to the top"}
      className={`ml-1 rounded p-1 align-middle hover:bg-shade ${run.pinned ? "text-ink" : "text-ink-faint"}`}
      onClick={() => void fetcher.submit({ id: String(run.id), pinned: run.pinned ? "" : "yes" }, { method: "post", action: "/runs" })}
    >
      <Pin size={13} aria-hidden fill={run.pinned ? "currentColor" : "none"} />
    </button>
  );
}

/** A run's note with its tags as #words in it; written in place, kept with Enter or by leaving it. */
function Note({ run }: { run: RunSummary }) {
  const fetcher = useFetcher<{ problems: { message: string }[] }>();
  const kept = [run.note, ...run.tags.map((tag) => `#${tag}`)].filter((part) => part !== "").join(" ");
  const [text, setText] = useState(kept);
  useEffect(() => setText(kept), [kept]);
  const keep = () => {
    if (text.trim() === kept) return;
    const tags = [...text.matchAll(/#([^\s#,]+)/g)].map((match) => match[1]);
    const note = text
      .replace(/#[^\s#,]+/g, " ")
      .replace(/\s+/g, " ")
      .trim();
    void fetcher.submit({ id: String(run.id), note, tags: tags.join(",") }, { method: "post", action: "/runs" });
  };
  const problem = fetcher.data?.problems[0]?.message;
  return (
    <>
      <input
        aria-label={`Note of run ${run.number} of ${run.strategyName}`}
        placeholder="note #tag"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setText(kept);
        }}
        className="w-44 rounded-[4px] border border-transparent bg-transparent px-1.5 py-0.5 text-sm placeholder:text-ink-soft hover:border-edge focus:border-edge focus:bg-sheet"
      />
      {problem && <p className="text-xs text-clay">{problem}</p>}
    </>
  );
}
