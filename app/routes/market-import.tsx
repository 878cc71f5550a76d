import { useCallback, useRef, useState, type DragEvent } from "react";
import { data, useNavigate, useSearchParams } from "react-router";
import type { FilePreview, ImportTarget } from "#server/importing/imports";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { PageHead, Problems } from "~/design/panel";
import { FileCard } from "~/markets/file-card";
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
