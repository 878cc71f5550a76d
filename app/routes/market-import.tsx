import { useCallback, useEffect, useRef, useState, type DragEvent } from "react";
import { data, useFetcher, useNavigate, useSearchParams } from "react-router";
import type { CsvFormat } from "#core/bars";
import type { FilePreview, ImportTarget } from "#server/importing/imports";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { decimal, momentText } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { FormatFields } from "~/markets/format-fields";
import { uploadFile } from "~/markets/upload";
import type { Route } from "./+types/market-import";

export const meta: Route.MetaFunction = () => [{ title: "Import bars · Canyon" }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const query = new URL(request.url).searchParams;
  const { imports, markets, calendars } = context.services;
  const files: FilePreview[] = [];
  const gone: string[] = [];
  for (const id of (query.get("files") ?? "").split(",").filter(Boolean).map(Number)) {
    try {
      files.push(await imports.preview(id, { market: query.get("market") ?? undefined }));
    } catch (error) {
      if (!isRefused(error)) throw error;
      gone.push(error.message);
    }
  }
  return {
    files,
    gone,
    markets: (await markets.list()).map(({ symbol, name, sources }) => ({
      symbol,
      name,
      sources: [...new Set(sources.map((one) => one.name))],
    })),
    calendars: (await calendars.list()).map(({ id, name }) => ({ id, name })),
  };
}

/** An import that starts changes nothing of the files that are shown. */
export const shouldRevalidate = ({ actionResult, defaultShouldRevalidate }: { actionResult?: unknown; defaultShouldRevalidate: boolean }) =>
  actionResult === undefined && defaultShouldRevalidate;

export async function action({ context, request }: Route.ActionArgs) {
  const { uploads, target } = (await request.json()) as { uploads: number; target: ImportTarget };
  try {
    const id = await context.services.imports.start(uploads, target);
    return { id, problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ id: null, problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function ImportPage({ loaderData: { files, gone, markets, calendars } }: Route.ComponentProps) {
  const [query] = useSearchParams();
  const navigate = useNavigate();
  const [sending, setSending] = useState<{ name: string; share: number }[]>([]);
  const [problems, setProblems] = useState<{ path: string; message: string }[]>([]);
  const [over, setOver] = useState(false);
  const [at, setAt] = useState(0);
  const [started, setStarted] = useState<Record<number, number>>({});
  const input = useRef<HTMLInputElement>(null);

  const take = useCallback(
    async (chosen: readonly File[]) => {
      if (chosen.length === 0) return;
      setProblems([]);
      setSending(chosen.map((file) => ({ name: file.name, share: 0 })));
      const ids: number[] = files.map((file) => file.upload);
      const wrong: { path: string; message: string }[] = [];
      for (const [i, file] of chosen.entries()) {
        try {
          const uploaded = await uploadFile(file, (share) =>
            setSending((list) => list.map((one, k) => (k === i ? { ...one, share } : one))),
          );
          ids.push(...uploaded.map((one) => one.id));
        } catch (error) {
          wrong.push({ path: "", message: error instanceof Error ? error.message : String(error) });
        }
      }
      setSending([]);
      setProblems(wrong);
      const next = new URLSearchParams(query);
      next.set("files", ids.join(","));
      if (ids.length > 0) await navigate(`/markets/import?${next.toString()}`, { replace: true });
    },
    [files, navigate, query],
  );
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void take([...event.dataTransfer.files]);
  };
  const file = files[Math.min(at, files.length - 1)];
  return (
    <>
      <PageHead title="Import bars" about="CSV files, plain, .gz or .zip: each is taken as a whole or not at all." />
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
        className={`mb-3 flex items-center gap-4 rounded-[4px] border border-dashed px-4 py-3 ${over ? "border-river bg-shade" : "border-edge bg-sheet"}`}
      >
        <Button look={files.length === 0 ? "primary" : "plain"} onClick={() => input.current?.click()}>
          Choose files…
        </Button>
        <label htmlFor="files" className="text-ink-soft">
          or drop them here
        </label>
        <input
          ref={input}
          id="files"
          type="file"
          multiple
          accept=".csv,.txt,.tsv,.gz,.zip"
          className="sr-only"
          onChange={(event) => void take([...(event.target.files ?? [])])}
        />
        {sending.map((one) => (
          <span key={one.name} className="text-sm text-ink-soft" role="status">
            {one.name} {Math.floor(100 * one.share)} %
          </span>
        ))}
      </div>
      <Problems problems={[...problems, ...gone.map((message) => ({ path: "", message }))]} title="Not every file could be handed in" />
      {files.length > 1 && (
        <nav aria-label="Files" className="my-3 flex flex-wrap gap-1.5">
          {files.map((one, i) => (
            <Button key={one.upload} small look={one === file ? "primary" : "quiet"} aria-pressed={one === file} onClick={() => setAt(i)}>
              {one.name}
              {started[one.upload] !== undefined && " · started"}
            </Button>
          ))}
        </nav>
      )}
      {file && (
        <FileCard
          key={file.upload}
          given={file}
          markets={markets}
          calendars={calendars}
          market={query.get("market") ?? file.guess}
          last={files.length === 1}
          started={started[file.upload]}
          onStarted={(id) => {
            setStarted((before) => ({ ...before, [file.upload]: id }));
            if (files.length === 1) void navigate(Object.keys(started).length === 0 ? `/imports/${id}` : "/imports");
            else if (files.every((one) => one.upload === file.upload || started[one.upload] !== undefined)) void navigate("/imports");
            else setAt(files.findIndex((one) => one.upload !== file.upload && started[one.upload] === undefined));
          }}
        />
      )}
    </>
  );
}

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
function FileCard({ given, markets, calendars, market, last, started, onStarted }: FileCardProps) {
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
