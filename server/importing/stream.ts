import { join } from "node:path";
import { CsvReader, mergeBars, type Bars, type ChangedBar, type CsvFormat, type LineProblem } from "#core/bars";
import { packForStore, type StoredBars } from "../bar-store";
import type { ChunkTools, StreamWork } from "../jobs/protocol";
import { FileFault, textOf, type Packing } from "./text";

/** What the reading of a file needs to know, as plain values. */
export interface ImportInput {
  importId: number;
  file: string;
  packing: Packing;
  entry: string | null;
  format: CsvFormat;
  /** raw bars of the source that the file is merged into; null for a new one */
  base: string | null;
}

/** What a file held. */
export interface ImportReport {
  /** what stopped the whole file, or null */
  fatal: string | null;
  timeframe: string;
  count: number;
  first: number | null;
  last: number | null;
  rejected: number;
  /** the first rejected lines */
  problems: LineProblem[];
  added: number;
  changed: number;
  same: number;
  changes: ChangedBar[];
  base: string | null;
  /** bars after taking everything, and after taking only what is new; hashes of stored sets */
  all: string | null;
  newOnly: string | null;
}

export interface ImportOutput {
  report: ImportReport;
  stored: StoredBars[];
}

const SHOWN_PROBLEMS = 10_000;

async function readFile(input: ImportInput, tools: ChunkTools) {
  const reader = new CsvReader(input.format);
  for await (const piece of textOf(join(tools.folder, "uploads", input.file), input.packing, input.entry, tools.progress))
    reader.push(piece);
  return reader.finish();
}

/** Reads a file of bars and merges it into what its source holds; nothing of it counts before it is taken. */
export const importStream: StreamWork<ImportInput, ImportOutput> = {
  kind: "import",
  async stream(input, tools) {
    const report: ImportReport = {
      fatal: null,
      timeframe: input.format.timeframe,
      count: 0,
      first: null,
      last: null,
      rejected: 0,
      problems: [],
      added: 0,
      changed: 0,
      same: 0,
      changes: [],
      base: input.base,
      all: null,
      newOnly: null,
    };
    const stored: StoredBars[] = [];
    try {
      const { bars, problems, rejected, fatal } = await readFile(input, tools);
      Object.assign(report, { fatal, rejected, problems: problems.slice(0, SHOWN_PROBLEMS), count: bars.length });
      if (fatal === null && bars.length < 2 && input.base === null) report.fatal = "fewer than two bars are left";
      if (report.fatal !== null || bars.length === 0) return { report, stored };
      report.first = bars.time[0];
      report.last = bars.time[bars.length - 1];
      const keep = async (made: Bars) => {
        const packed = await packForStore(made, tools.knownParts);
        stored.push(packed);
        return packed.set.hash;
      };
      if (input.base === null) {
        report.added = bars.length;
        report.all = report.newOnly = await keep(bars);
        return { report, stored };
      }
      const before = await tools.openedBars(input.base);
      const merge = mergeBars(before, bars);
      const { added, changed, same, changes } = merge;
      Object.assign(report, { added, changed, same, changes });
      report.all = await keep(merge.bars);
      report.newOnly = changed === 0 ? report.all : await keep(mergeBars(before, bars, false).bars);
    } catch (error) {
      if (!(error instanceof FileFault)) throw error;
      report.fatal = error.message;
    }
    return { report, stored };
  },
};
