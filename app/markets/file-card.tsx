import { useEffect, useState } from "react";
import { useFetcher } from "react-router";
import type { CsvFormat } from "#core/bars";
import type { FilePreview, ImportTarget } from "#server/importing/imports";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { decimal, momentText } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import type { action } from "~/routes/market-import";
import { FormatFields } from "./format-fields";

interface FileCardProps {
  given: FilePreview;
  markets: readonly { symbol: string; name: string; sources: readonly string[] }[];
  calendars: readonly { id: number; name: string }[];
  market: string | null;
  last: boolean;
  started: number | undefined;
  onStarted: (id: number) => void;
}

const NEW = "a new market";
const symbolFrom = (name: string): string =>
  name
    .replace(/[-_ .].*$/, "")
    .toUpperCase()
    .replace(/[^A-Z0-9_]/g, "")
    .replace(/^[^A-Z]+/, "");

/** One file: where it goes, how it is read, what its first bars look like under that. */
export function FileCard({ given, markets, calendars, market, last, started, onStarted }: FileCardProps) {
  const previews = useFetcher<FilePreview | null>();
  const sender = useFetcher<typeof action>();
  const shown = previews.data ?? given;
  const [format, setFormat] = useState<CsvFormat>(given.format);
  const [answered, setAnswered] = useState(given.doubts.length === 0);
  const known = markets.some((one) => one.symbol === market);
  const [into, setInto] = useState(known ? market! : NEW);
  const [source, setSource] = useState(known ? (markets.find((one) => one.symbol === market)!.sources[0] ?? "my file") : "my file");
  const [fields, setFields] = useState({
    symbol: symbolFrom(given.name),
    name: "",
    kind: "share",
    currency: "SKR",
    tick: "0.01",
    pointValue: "1",
    calendar: "none",
  });
  const [leaveOut, setLeaveOut] = useState(false);
  const [takeChanges, setTakeChanges] = useState(false);
  const adjust = (next: CsvFormat) => {
    setFormat(next);
    if (next.time !== format.time) setAnswered(true);
    const query = new URLSearchParams({ upload: String(given.upload), format: JSON.stringify(next) });
    void previews.load(`/api/preview?${query.toString()}`);
  };
  const problems = sender.data?.problems ?? [];
  const error = (path: string) => problems.find((problem) => problem.path === path)?.message;
  const number = (text: string) => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));
  const start = () => {
    const target: ImportTarget = {
      market: into === NEW ? null : into,
      create:
        into === NEW
          ? {
              symbol: fields.symbol.trim(),
              name: fields.name,
              kind: fields.kind,
              currency: fields.currency.trim(),
              tick: number(fields.tick),
              pointValue: number(fields.pointValue),
              calendarId: fields.calendar === "none" ? null : Number(fields.calendar),
              source,
            }
          : null,
      source,
      format,
      leaveOut,
      takeChanges,
    };
    void sender.submit({ uploads: given.upload, target } as never, { method: "post", encType: "application/json" });
  };
  const id = sender.data?.id ?? null;
  useEffect(() => {
    if (id !== null && sender.state === "idle" && started === undefined) onStarted(id);
    // once for each import that was started
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, sender.state]);
  const daily = ["1d", "1w", "1M"].includes(format.timeframe);
  const set = (key: keyof typeof fields) => (value: string) => setFields((before) => ({ ...before, [key]: value }));
  return (
    <div className="grid grid-cols-[minmax(300px,340px)_1fr] items-start gap-3">
      <Panel title="Where it goes" note={shown.remembered ? "read as this source's last file was" : undefined}>
        <div className="grid grid-cols-2 gap-x-3 gap-y-2.5">
          <Select
            label="Market"
            value={into}
            choices={[{ value: NEW, label: NEW }, ...markets.map((one) => ({ value: one.symbol, label: `${one.symbol} ${one.name}` }))]}
            onChange={(chosen) => {
              setInto(chosen);
              const own = markets.find((one) => one.symbol === chosen);
              if (own && !own.sources.includes(source)) setSource(own.sources[0] ?? "my file");
            }}
            className="col-span-2"
          />
          <Field
            label="Source, where the bars come from"
            value={source}
            onChange={(event) => setSource(event.target.value)}
            list="known-sources"
            error={error("source")}
            hint={
              into === NEW
                ? undefined
                : markets.find((one) => one.symbol === into)?.sources.includes(source)
                  ? "its bars are merged by time"
                  : "a further source of this market"
            }
            className="col-span-2"
          />
          <datalist id="known-sources">
            {(markets.find((one) => one.symbol === into)?.sources ?? []).map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
          {into === NEW && (
            <>
              <Field
                label="Symbol"
                name="symbol"
                value={fields.symbol}
                onChange={(event) => set("symbol")(event.target.value)}
                error={error("symbol")}
              />
              <Field
                label="Name"
                name="name"
                value={fields.name}
                onChange={(event) => set("name")(event.target.value)}
                error={error("name")}
              />
              <Select
                label="Kind"
                value={fields.kind}
                choices={["share", "future", "currency", "index", "bond", "option"].map((kind) => ({ value: kind, label: kind }))}
                onChange={set("kind")}
              />
              <Field
                label="Currency"
                name="currency"
                value={fields.currency}
                onChange={(event) => set("currency")(event.target.value)}
                error={error("currency")}
              />
              <Field
                label="Tick"
                name="tick"
                value={fields.tick}
                onChange={(event) => set("tick")(event.target.value)}
                figure
                error={error("tick")}
              />
              <Field
                label="Money per 1.0 of price"
                name="pointValue"
                value={fields.pointValue}
                onChange={(event) => set("pointValue")(event.target.value)}
                figure
                error={error("pointValue")}
              />
              <Select
                label="Calendar"
                value={fields.calendar}
                choices={[
                  { value: "none", label: "round the clock, UTC" },
                  ...calendars.map((one) => ({ value: String(one.id), label: one.name })),
                ]}
                onChange={set("calendar")}
                className="col-span-2"
              />
            </>
          )}
          <label className="col-span-2 flex items-start gap-2">
            <input
              type="checkbox"
              name="leaveOut"
              checked={leaveOut}
              onChange={(event) => setLeaveOut(event.target.checked)}
              className="mt-1"
            />
            Leave broken lines out and import the rest
          </label>
          {into !== NEW && (
            <label className="col-span-2 flex items-start gap-2">
              <input type="checkbox" checked={takeChanges} onChange={(event) => setTakeChanges(event.target.checked)} className="mt-1" />
              Take changed bars without showing them first
            </label>
          )}
          <div className="col-span-2">
            <Problems
              problems={problems.filter(
                (problem) => !["symbol", "name", "currency", "tick", "pointValue", "source"].includes(problem.path),
              )}
              title="This can't be imported so"
            />
          </div>
          <div className="col-span-2 flex items-center gap-3 pt-1">
            <Button
              look="primary"
              onClick={start}
              disabled={shown.fatal !== null || !answered || sender.state !== "idle" || started !== undefined}
            >
              {started !== undefined ? "Started" : sender.state !== "idle" ? "Starting …" : "Import"}
            </Button>
            {!last && <span className="text-sm text-ink-soft">then the next file</span>}
          </div>
        </div>
      </Panel>
      <div className="flex min-w-0 flex-col gap-3">
        {!answered && (
          <div role="alert" className="rounded-[4px] border border-ochre bg-sheet px-3.5 py-2.5">
            <p className="font-semibold">One question first</p>
            <p>{given.doubts[0].question}.</p>
            <div className="mt-2 flex gap-2">
              <Button
                onClick={() => {
                  setAnswered(true);
                  adjust({ ...format, time: "dayFirst" });
                }}
              >
                The day first
              </Button>
              <Button
                onClick={() => {
                  setAnswered(true);
                  adjust({ ...format, time: "monthFirst" });
                }}
              >
                The month first
              </Button>
            </div>
          </div>
        )}
        <Panel
          title="How it is read"
          note={`${given.name}, ${decimal(given.bytes / 1024, 0)} kB${shown.remembered ? "" : "; every guess can be changed"}`}
        >
          <FormatFields format={format} names={shown.names} onChange={adjust} />
        </Panel>
        <Panel title="The first and last bars of its beginning" note={daily ? "by session date" : "starts of bars, UTC"} flush>
          {shown.fatal !== null ? (
            <div className="px-3.5 pb-3">
              <Problems problems={[{ path: "", message: shown.fatal }]} title="Read so, the file makes no sense" />
            </div>
          ) : (
            <table className="w-full border-collapse" data-preview>
              <thead className="text-sm text-ink-soft">
                <tr>
                  <th scope="col" className="px-3.5 py-1 text-left font-normal">
                    {daily ? "date" : "time"}
                  </th>
                  {["open", "high", "low", "close", "volume"].map((head) => (
                    <th key={head} scope="col" className="px-3.5 text-right font-normal">
                      {head}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {shown.rows.map((row) => (
                  <tr key={row.time} className="border-t border-edge/60">
                    <td className="figure-text px-3.5 py-0.5">{daily ? momentText(row.time).slice(0, 10) : momentText(row.time)}</td>
                    {[row.open, row.high, row.low, row.close, row.volume].map((value, i) => (
                      <td key={i} className="figure-text px-3.5 text-right">
                        {value}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {shown.problems.length > 0 && (
            <ol className="border-t border-edge px-3.5 py-2" aria-label="Broken lines at its beginning">
              {shown.problems.slice(0, 6).map((problem) => (
                <li key={problem.line}>
                  <span className="text-clay">line {problem.line}</span>: {problem.message}
                </li>
              ))}
              {shown.problems.length > 6 && <li className="text-ink-soft">and {shown.problems.length - 6} more here</li>}
            </ol>
          )}
        </Panel>
        <Panel title="As it stands in the file">
          <pre className="figure-text overflow-x-auto text-sm text-ink-soft">{shown.raw.join("\n")}</pre>
        </Panel>
      </div>
    </div>
  );
}
