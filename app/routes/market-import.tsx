import { useState } from "react";
import { data, Form, Link, redirect, useFetcher, useNavigation } from "react-router";
import type { ImportPreview } from "#server/markets";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { dateText, decimal } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import type { Route } from "./+types/market-import";

export const meta: Route.MetaFunction = () => [{ title: "Import bars · Canyon" }];

const MAX_FILE = 40 * 1024 * 1024;

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const file = form.get("file");
  if (!(file instanceof File) || file.size === 0)
    return data(
      {
        preview: null,
        problems: [{ path: "file", message: file instanceof File && file.name !== "" ? `${file.name} is empty` : "choose a file first" }],
      },
      { status: 400 },
    );
  if (file.size > MAX_FILE)
    return data({ preview: null, problems: [{ path: "file", message: `${file.name} is larger than 40 MB` }] }, { status: 400 });
  const text = await file.text();
  const { markets } = context.services;
  if (form.get("intent") === "preview") return { preview: markets.preview(text), problems: [] };
  const number = (key: string) => Number(String(form.get(key)).replace(",", "."));
  try {
    const market = await markets.importDaily(
      {
        symbol: String(form.get("symbol")).trim(),
        name: String(form.get("name")),
        kind: String(form.get("kind")),
        currency: String(form.get("currency")).trim(),
        tick: number("tick"),
        pointValue: number("pointValue"),
        source: String(form.get("source")),
      },
      text,
      form.get("leaveOut") === "on",
    );
    return redirect(`/markets/${market.symbol}`);
  } catch (error) {
    if (isRefused(error)) return data({ preview: markets.preview(text), problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function ImportPage({ actionData }: Route.ComponentProps) {
  const preview = useFetcher<typeof action>();
  const navigation = useNavigation();
  const [file, setFile] = useState<File | null>(null);
  const [symbol, setSymbol] = useState("");
  const shown: ImportPreview | null = preview.data?.preview ?? null;
  const problems = actionData?.problems ?? [];
  const error = (path: string) => problems.find((problem) => problem.path === path)?.message;
  const choose = (chosen: File | null) => {
    setFile(chosen);
    if (chosen === null) return;
    if (symbol === "")
      setSymbol(
        chosen.name
          .replace(/[-_ .].*$/, "")
          .toUpperCase()
          .replace(/[^A-Z0-9_]/g, "")
          .replace(/^[^A-Z]+/, ""),
      );
    const form = new FormData();
    form.set("intent", "preview");
    form.set("file", chosen);
    void preview.submit(form, { method: "post", encType: "multipart/form-data" });
  };
  return (
    <>
      <PageHead title="Import bars" about="A CSV file of daily bars becomes a market: all of it or nothing." />
      <Form method="post" encType="multipart/form-data" className="grid grid-cols-[minmax(320px,380px)_1fr] gap-3">
        <Panel title="The market">
          <div className="grid grid-cols-2 gap-x-3 gap-y-2.5">
            <div className="col-span-2">
              <label htmlFor="file" className="text-sm text-ink-soft">
                File, CSV with a header line
              </label>
              <input
                id="file"
                name="file"
                type="file"
                accept=".csv,.txt,text/csv"
                onChange={(event) => choose(event.target.files?.[0] ?? null)}
                className="mt-0.5 block w-full rounded-[4px] border border-edge bg-sheet p-1 file:mr-3 file:rounded-[3px] file:border file:border-ink file:bg-sheet file:px-2 file:py-0.5 file:text-ink"
              />
            </div>
            <Field
              label="Symbol"
              name="symbol"
              value={symbol}
              onChange={(event) => setSymbol(event.target.value)}
              error={error("symbol")}
            />
            <Field label="Name" name="name" error={error("name")} />
            <Select
              label="Kind"
              name="kind"
              value="share"
              choices={["share", "future", "currency", "index", "bond", "option"].map((kind) => ({ value: kind, label: kind }))}
            />
            <Field label="Currency" name="currency" defaultValue="SKR" error={error("currency")} />
            <Field label="Tick, smallest price step" name="tick" defaultValue="0.01" inputMode="decimal" figure error={error("tick")} />
            <Field
              label="Money per 1.0 of price"
              name="pointValue"
              defaultValue="1"
              inputMode="decimal"
              figure
              error={error("pointValue")}
            />
            <Field
              label="Source, where the bars come from"
              name="source"
              defaultValue="my file"
              className="col-span-2"
              error={error("source")}
            />
            {shown && shown.problems.length > 0 && shown.fatal === null && (
              <label className="col-span-2 flex items-start gap-2">
                <input type="checkbox" name="leaveOut" className="mt-1" />
                <span>
                  Leave the {shown.problems.length} broken {shown.problems.length === 1 ? "line" : "lines"} out and import the rest
                </span>
              </label>
            )}
            <div className="col-span-2 flex gap-2 pt-1">
              <Button
                type="submit"
                look="primary"
                disabled={file === null || (shown !== null && shown.fatal !== null) || navigation.state !== "idle"}
              >
                {navigation.state !== "idle" ? "Importing …" : "Import"}
              </Button>
              <Button asChild look="quiet">
                <Link to="/markets">Cancel</Link>
              </Button>
            </div>
          </div>
        </Panel>
        <div className="flex min-w-0 flex-col gap-3">
          <Problems problems={problems} title="Nothing was imported" />
          {preview.data && preview.data.preview === null && <Problems problems={preview.data.problems} title="The file can't be read" />}
          {shown ? (
            <Preview preview={shown} name={file?.name ?? ""} />
          ) : (
            <Panel title="What a file looks like">
              <p className="mb-2 text-ink-soft">
                A header line names the columns, in any order; others are passed over. Dates are written YYYY-MM-DD. A volume may be left
                out.
              </p>
              <pre className="figure-text overflow-auto rounded bg-paper p-3">
                {"date,open,high,low,close,volume\n2024-01-02,101.5,103.25,101.0,102.75,18400\n2024-01-03,102.5,102.75,99.5,100.0,22150"}
              </pre>
            </Panel>
          )}
        </div>
      </Form>
    </>
  );
}

function Preview({ preview, name }: { preview: ImportPreview; name: string }) {
  if (preview.fatal !== null) return <Problems problems={[{ path: name, message: preview.fatal }]} title="This file holds no bars" />;
  return (
    <>
      <Panel
        title="Preview"
        note={
          preview.count > 0
            ? `${decimal(preview.count, 0)} bars, ${dateText(preview.first!)} to ${dateText(preview.last!)}`
            : "no bar can be read"
        }
      >
        <table className="w-full border-collapse">
          <thead className="text-sm text-ink-soft">
            <tr>
              {["date", "open", "high", "low", "close", "volume"].map((head) => (
                <th key={head} scope="col" className="pb-1 text-right font-normal first:text-left">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {preview.rows.map((row, i) => (
              <tr key={row.time} className={`border-t border-edge/60 ${i === 4 && preview.count > 8 ? "border-t-4 border-double" : ""}`}>
                <td className="figure-text py-0.5">{dateText(row.time)}</td>
                {[row.open, row.high, row.low, row.close, row.volume].map((value, k) => (
                  <td key={k} className="figure-text py-0.5 text-right">
                    {value}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Panel>
      {preview.problems.length > 0 && (
        <Panel
          title={`${decimal(preview.problems.length, 0)} broken ${preview.problems.length === 1 ? "line" : "lines"}`}
          note="left out only if you say so; never repaired"
        >
          <ol className="max-h-56 overflow-auto" tabIndex={0} aria-label="Broken lines">
            {preview.problems.slice(0, 500).map((problem) => (
              <li key={problem.line} className="grid grid-cols-[80px_1fr] border-t border-edge/60 py-0.5">
                <span className="figure-text">line {problem.line}</span>
                <span>{problem.message}</span>
              </li>
            ))}
          </ol>
          {preview.problems.length > 500 && <p className="text-ink-soft">and {decimal(preview.problems.length - 500, 0)} more</p>}
        </Panel>
      )}
    </>
  );
}
