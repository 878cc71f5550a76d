import { desc, eq } from "drizzle-orm";
import type { BatchItem } from "drizzle-orm/batch";
import {
  CsvReader,
  guessCsv,
  missingColumns,
  parseTimeframe,
  isZone,
  type BarFigures,
  type CsvDoubt,
  type CsvFormat,
  type LineProblem,
} from "#core/bars";
import type { DocumentProblem } from "#core/documents";
import { storeStatements } from "../bar-store";
import type { Database } from "../db/open";
import { imports, jobs, sources } from "../db/schema";
import type { ChunkTools, JobKind, JobProgress } from "../jobs/protocol";
import type { JobRunner } from "../jobs/runner";
import { someBars, type Markets, type NewMarket } from "../markets";
import { Refused, refuse } from "../problem";
import { sealStored } from "../seal-cut";
import type { Sources } from "../sources";
import { openQuestions } from "./questions";
import { importStream, type ImportInput, type ImportOutput, type ImportReport } from "./stream";
import { FileFault, headOf } from "./text";
import type { Upload, Uploads } from "./uploads";

/** Where a file's bars go, and what may be done without asking. */
export interface ImportTarget {
  /** symbol of a market that is there */
  market: string | null;
  /** a market to be made of the file */
  create: NewMarket | null;
  source: string;
  format: CsvFormat;
  /** import the rest where lines are broken */
  leaveOut: boolean;
  /** take changed bars without showing them first */
  takeChanges: boolean;
}

/** The beginning of a file as a format reads it. */
export interface FilePreview {
  upload: number;
  name: string;
  bytes: number;
  format: CsvFormat;
  names: string[];
  doubts: CsvDoubt[];
  /** whether the format is the one that the source's last file had */
  remembered: boolean;
  raw: string[];
  rows: ({ time: number } & BarFigures)[];
  problems: LineProblem[];
  fatal: string | null;
  /** symbol of a market whose name the file's begins with */
  guess: string | null;
}

export type ImportState = "reading" | "ready" | "taken" | "dropped";

export interface ImportView {
  id: number;
  name: string;
  target: ImportTarget;
  state: ImportState;
  report: ImportReport | null;
  job: JobProgress;
  createdAt: number;
}

/** Checks a format that came from a form. */
export function checkFormat(format: CsvFormat): DocumentProblem[] {
  const problems: DocumentProblem[] = [];
  const missing = missingColumns(format);
  if (missing.length > 0)
    problems.push({ path: "columns", message: `name the ${missing.join(", ")} column${missing.length > 1 ? "s" : ""}` });
  if (format.columns.date === null && format.columns.time === null)
    problems.push({ path: "columns", message: "name the column that holds the date or the time" });
  if (parseTimeframe(format.timeframe) === null)
    problems.push({ path: "timeframe", message: `“${format.timeframe}” is not a timeframe; write 1m, 20m, 1h, 1d, 1w or 1M` });
  if (!isZone(format.zone))
    problems.push({ path: "zone", message: `“${format.zone}” is not an IANA time zone, such as Europe/Copenhagen` });
  if (format.delimiter === "") problems.push({ path: "delimiter", message: "choose a delimiter" });
  return problems;
}

/** Files on their way into sources: previewed, read by a job, taken or dropped as a whole. */
export class Imports {
  constructor(
    private readonly db: Database,
    private readonly markets: Markets,
    private readonly sources: Sources,
    readonly uploads: Uploads,
    private readonly jobs: JobRunner,
  ) {}

  /** Reads the beginning of a file: under a format, or under the guess of one (the source's last, where it fits). */
  async preview(uploadId: number, given: { format?: CsvFormat; market?: string; source?: string } = {}): Promise<FilePreview> {
    const upload = await this.uploads.get(uploadId);
    const none = { upload: upload.id, name: upload.name, bytes: upload.bytes, names: [], doubts: [], rows: [], problems: [] };
    const blank = guessCsv("");
    let head: { text: string; torn: boolean };
    try {
      head = await headOf(this.uploads.pathOf(upload), upload.packing, upload.entry);
    } catch (error) {
      if (!(error instanceof FileFault)) throw error;
      return { ...none, format: blank.format, remembered: false, raw: [], fatal: error.message, guess: null };
    }
    const guess = guessCsv(head.text, head.torn);
    const list = await this.markets.list();
    const stem = upload.name.toUpperCase();
    const named = list
      .filter((market) => stem.startsWith(market.symbol.toUpperCase()) && !/^[A-Z0-9]/.test(stem.slice(market.symbol.length)))
      .sort((a, b) => b.symbol.length - a.symbol.length)[0];
    let format = given.format ?? guess.format;
    let remembered = false;
    if (given.format === undefined) {
      const market = given.market === undefined ? named : list.find((one) => one.symbol === given.market);
      const held = await this.rememberedFormat(market?.id, given.source, guess.format.timeframe);
      if (held !== null && held.delimiter === guess.format.delimiter && held.header === guess.format.header) {
        format = held;
        remembered = true;
      }
    }
    const faults = checkFormat(format);
    const cut = head.torn ? head.text.slice(0, head.text.lastIndexOf("\n") + 1) : head.text;
    const raw = cut
      .split(/\r?\n|\r/, 6)
      .filter((line) => line !== "")
      .map((line) => line.slice(0, 300));
    const common = {
      ...none,
      format,
      names: guess.names,
      doubts: remembered ? [] : guess.doubts,
      remembered,
      raw,
      guess: named?.symbol ?? null,
    };
    if (cut.trim() === "") return { ...common, fatal: `${upload.name} holds no text` };
    if (faults.length > 0) return { ...common, fatal: faults.map((fault) => fault.message).join("; ") };
    const reader = new CsvReader(format);
    reader.push(cut);
    const read = reader.finish();
    return { ...common, rows: someBars(read.bars), problems: read.problems.slice(0, 50), fatal: read.fatal };
  }

  private async rememberedFormat(marketId: number | undefined, source: string | undefined, timeframe: string): Promise<CsvFormat | null> {
    if (marketId === undefined) return null;
    const rows = await this.db.select().from(sources).where(eq(sources.marketId, marketId));
    const fit = rows.filter((row) => row.format !== null && (source === undefined || row.name === source));
    const best = fit.find((row) => row.timeframe === timeframe) ?? null;
    return best === null ? null : (JSON.parse(best.format!) as CsvFormat);
  }

  /** What reading a file into a target needs to know. Refused, with nothing changed, where target or format make no sense. */
  private async input(id: number, upload: Upload, target: ImportTarget): Promise<ImportInput> {
    const problems = checkFormat(target.format);
    let base: string | null = null;
    if (target.create !== null) problems.push(...(await this.markets.check({ ...target.create, source: target.source })));
    else {
      const market = await this.markets.need(target.market ?? "");
      if (target.source.trim() === "") problems.push({ path: "source", message: "source is required: where do the bars come from?" });
      base = (await this.sources.find(market.id, target.source.trim(), target.format.timeframe))?.rawHash ?? null;
    }
    if (problems.length > 0) throw new Refused(problems);
    return { importId: id, file: upload.file, packing: upload.packing, entry: upload.entry, format: target.format, base };
  }

  private async nextIds(): Promise<[jobId: number, id: number]> {
    const ids = await this.db.$client.execute(
      "SELECT (SELECT COALESCE(MAX(id), 0) FROM jobs) + 1 AS job, (SELECT COALESCE(MAX(id), 0) FROM imports) + 1 AS import",
    );
    return [Number(ids.rows[0].job), Number(ids.rows[0].import)];
  }

  /**
   * Reads a file and takes it at once, in this process and without the queue. Gives the report, and what there was to ask:
   * then nothing counts and the file is dropped.
   */
  async readNow(
    uploadId: number,
    target: ImportTarget,
    tools: ChunkTools,
  ): Promise<{ report: ImportReport; questions: ("broken" | "changed")[] }> {
    const upload = await this.uploads.get(uploadId);
    const [jobId, id] = await this.nextIds();
    const input = await this.input(id, upload, target);
    const { report, stored } = await importStream.stream(input, tools, 0);
    const questions = report.fatal === null ? openQuestions(target, report) : [];
    if (report.fatal !== null || report.all === null || questions.length > 0) {
      await this.uploads.drop(uploadId);
      return { report, questions };
    }
    const now = Date.now();
    const total = Math.max(1, upload.bytes);
    await this.db.batch([
      this.db.insert(jobs).values({
        id: jobId,
        kind: "import",
        title: `Import ${upload.name}`,
        input: JSON.stringify(input),
        state: "done",
        total,
        chunkSize: total,
        done: total,
        elapsed: 0,
        createdAt: now,
        finishedAt: now,
      }),
      ...stored.flatMap((bars) => storeStatements(this.db, bars)),
      this.db.insert(imports).values({
        id,
        uploadId,
        name: upload.name,
        jobId,
        target: JSON.stringify(target),
        state: "ready",
        report: JSON.stringify(report),
        createdAt: now,
      }),
    ]);
    await this.take(id, "all");
    return { report, questions };
  }

  /** Queues the reading of a file. Refused, with nothing changed, where target or format make no sense. */
  async start(uploadId: number, target: ImportTarget): Promise<number> {
    const upload = await this.uploads.get(uploadId);
    const [jobId, id] = await this.nextIds();
    const input = await this.input(id, upload, target);
    const total = Math.max(1, upload.bytes);
    await this.db.batch([
      this.jobs.queue({ id: jobId, kind: "import", title: `Import ${upload.name}`, input, total, chunkSize: total }),
      this.db
        .insert(imports)
        .values({ id, uploadId, name: upload.name, jobId, target: JSON.stringify(target), state: "reading", createdAt: Date.now() }),
    ]);
    this.jobs.nudge();
    return id;
  }

  async get(id: number): Promise<ImportView | null> {
    const [row] = await this.db.select().from(imports).where(eq(imports.id, id));
    if (row === undefined) return null;
    const [job] = await this.jobs.progress([row.jobId]);
    return {
      id,
      name: row.name,
      target: JSON.parse(row.target) as ImportTarget,
      state: row.state as ImportState,
      report: row.report === null ? null : (JSON.parse(row.report) as ImportReport),
      job,
      createdAt: row.createdAt,
    };
  }

  /** The newest imports. */
  async recent(): Promise<ImportView[]> {
    const rows = await this.db.select({ id: imports.id }).from(imports).orderBy(desc(imports.id)).limit(20);
    return (await Promise.all(rows.map((row) => this.get(row.id)))).filter((view) => view !== null);
  }

  /** Takes a file that was read: everything, or only the bars that are new. */
  async take(id: number, how: "all" | "newOnly"): Promise<string> {
    const view = await this.get(id);
    if (view === null) return refuse("import", "there is no such import", 404);
    if (view.state === "taken") return view.target.create?.symbol ?? view.target.market!;
    if (view.state !== "ready" || view.report === null) return refuse("import", "the file is not read yet, or was dropped");
    if (view.report.fatal !== null) return refuse("file", `nothing can be taken: ${view.report.fatal}`);
    const [first, ...rest] = await this.takeStatements(id, view.target, view.report, how);
    await this.db.batch([first, ...rest]);
    await this.clear(id);
    return view.target.create?.symbol ?? view.target.market!;
  }

  /** Drops a file: nothing of it counts. */
  async drop(id: number): Promise<void> {
    const view = await this.get(id);
    if (view === null || view.state === "taken") return;
    if (view.job.kind === "import") await this.jobs.cancel(view.job.id);
    await this.db.update(imports).set({ state: "dropped" }).where(eq(imports.id, id));
    await this.clear(id);
  }

  /** Lets the file of an import go, once it is taken or dropped. */
  private async clear(id: number): Promise<void> {
    const [row] = await this.db.select({ uploadId: imports.uploadId }).from(imports).where(eq(imports.id, id));
    if (row.uploadId !== null) await this.uploads.drop(row.uploadId);
  }

  /** The statements that make a file's bars count, all in one batch. */
  private async takeStatements(
    id: number,
    target: ImportTarget,
    report: ImportReport,
    how: "all" | "newOnly",
  ): Promise<BatchItem<"sqlite">[]> {
    const hash = how === "all" ? report.all : report.newOnly;
    if (hash === null) return refuse("file", "the file holds no bar");
    const format = JSON.stringify(target.format);
    const name = target.source.trim();
    const note = `${how === "all" ? "everything" : "only what is new"} of a file`;
    const done = this.db.update(imports).set({ state: "taken" }).where(eq(imports.id, id));
    if (target.create !== null) {
      const problems = await this.markets.check({ ...target.create, source: name });
      if (problems.length > 0) throw new Refused(problems);
      return [
        ...(await this.markets.newMarketStatements(
          { ...target.create, source: name },
          null,
          hash,
          report.timeframe,
          report.count,
          report.rejected,
          {
            format,
            note,
          },
        )),
        done,
      ];
    }
    const market = await this.markets.need(target.market!);
    const row = await this.sources.find(market.id, name, report.timeframe);
    if (row === null) {
      const [, statements] = await this.sources.newStatements(market.id, name, report.timeframe, hash, report.count, report.rejected, {
        format,
        note,
      });
      return [...statements, done];
    }
    if (row.rawHash !== report.base) return refuse("file", "the source has changed since the file was read; import the file again");
    return [
      ...(await this.sources.replaceStatements(row, hash, {
        what: "import",
        added: report.added,
        changed: how === "all" ? report.changed : 0,
        rejected: report.rejected,
        note,
      })),
      this.db.update(sources).set({ format }).where(eq(sources.id, row.id)),
      done,
    ];
  }

  /** Takes what was read and leaves nothing to ask, where a crash came in between. */
  async finishPending(): Promise<void> {
    const rows = await this.db.select().from(imports).where(eq(imports.state, "ready"));
    for (const row of rows) if (row.uploadId !== null) await this.takeUnasked(row.id);
  }

  /** Takes a file that was read without asking, where nothing is left to ask. What has come in between is left to the trader. */
  private async takeUnasked(id: number): Promise<void> {
    const view = (await this.get(id))!;
    const { report, target } = view;
    if (report === null || report.fatal !== null || report.all === null || openQuestions(target, report).length > 0) return;
    try {
      await this.take(id, "all");
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      await this.db
        .update(imports)
        .set({ report: JSON.stringify({ ...report, fatal: error.message }) })
        .where(eq(imports.id, id));
    }
  }

  /** How the job's end is written down: the bars that were read and the report; then, where nothing is left to ask, the taking. */
  kind(): JobKind<ImportInput, ImportOutput> {
    return {
      kind: "import",
      lane: "data",
      data: () => [],
      commit: async (_jobId, input, { report, stored }) => [
        ...(await sealStored(this.db, (await this.get(input.importId))?.target.market ?? null, stored)).flatMap((bars) =>
          storeStatements(this.db, bars),
        ),
        this.db
          .update(imports)
          .set({ state: "ready", report: JSON.stringify(report) })
          .where(eq(imports.id, input.importId)),
      ],
      after: (_jobId, input) => this.takeUnasked(input.importId),
      abandon: (jobId) => [this.db.update(imports).set({ state: "dropped" }).where(eq(imports.jobId, jobId))],
    };
  }
}
