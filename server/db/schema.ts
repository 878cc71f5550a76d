import { blob, index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from "drizzle-orm/sqlite-core";

// Times are epoch milliseconds. JSON columns hold documents as the formats describe them.

/** Instruments. A deleted market stays, so that stored runs keep their meaning and deleting can be undone. */
export const markets = sqliteTable(
  "markets",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    symbol: text("symbol").notNull(),
    name: text("name").notNull(),
    kind: text("kind").notNull(),
    currency: text("currency").notNull(),
    sector: text("sector").notNull().default(""),
    /** MarketSpec; the session is a copy of the calendar's, where there is one */
    spec: text("spec").notNull(),
    calendarId: integer("calendar_id").references(() => calendars.id),
    /** cost preset that run settings start from */
    costs: text("costs").notNull(),
    createdAt: integer("created_at").notNull(),
    deletedAt: integer("deleted_at"),
  },
  (table) => [index("markets_symbol").on(table.symbol)],
);

/** Session hours with holidays and early closes, shared by markets. */
export const calendars = sqliteTable("calendars", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull().unique(),
  session: text("session").notNull(),
  updatedAt: integer("updated_at").notNull(),
});

/** Where a market's bars come from; one is the default. `rawHash` names the bars as they came, `barsHash` those that count after corrections. */
export const sources = sqliteTable(
  "sources",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    marketId: integer("market_id")
      .notNull()
      .references(() => markets.id),
    name: text("name").notNull(),
    timeframe: text("timeframe").notNull(),
    isDefault: integer("is_default").notNull(),
    barsHash: text("bars_hash")
      .notNull()
      .references(() => barSets.hash),
    rawHash: text("raw_hash")
      .notNull()
      .references(() => barSets.hash),
    /** CsvFormat of the last file, for the next one */
    format: text("format"),
    /** whether the data service knows this source */
    served: integer("served").notNull().default(0),
    /** when the data service was last asked with success */
    checkedAt: integer("checked_at"),
    /** why the data service could not be asked the last time; null where it could */
    checkProblem: text("check_problem"),
    updatedAt: integer("updated_at").notNull(),
  },
  (table) => [uniqueIndex("sources_name").on(table.marketId, table.name, table.timeframe)],
);

/** What happened to a source's bars, for good: nothing is changed silently. */
export const sourceChanges = sqliteTable(
  "source_changes",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    sourceId: integer("source_id")
      .notNull()
      .references(() => sources.id),
    at: integer("at").notNull(),
    what: text("what").notNull(),
    added: integer("added").notNull(),
    changed: integer("changed").notNull(),
    rejected: integer("rejected").notNull(),
    rawBefore: text("raw_before"),
    rawAfter: text("raw_after").notNull(),
    note: text("note").notNull(),
  },
  (table) => [index("source_changes_source").on(table.sourceId)],
);

/** What the trader decided on a finding of the quality report: it is accepted, or its bars are left out. */
export const decisions = sqliteTable(
  "decisions",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    sourceId: integer("source_id")
      .notNull()
      .references(() => sources.id),
    finding: text("finding").notNull(),
    /** accept, leaveOut */
    action: text("action").notNull(),
    /** what the finding said, and the times of the bars left out */
    text: text("text").notNull(),
    times: text("times").notNull(),
    reason: text("reason").notNull(),
    createdAt: integer("created_at").notNull(),
    undoneAt: integer("undone_at"),
  },
  (table) => [index("decisions_source").on(table.sourceId)],
);

/** Bars by the hash of their columns. They never change: new data is a new set, which shares its unchanged parts with the old one. */
export const barSets = sqliteTable("bar_sets", {
  hash: text("hash").primaryKey(),
  count: integer("count").notNull(),
  firstTime: integer("first_time").notNull(),
  lastTime: integer("last_time").notNull(),
  lastClose: real("last_close").notNull(),
  /** a hundred closes, evenly spaced, for the small curve in lists */
  outline: text("outline").notNull(),
  /** hashes of the parts, in order */
  parts: text("parts").notNull(),
  /** 1 for bars that reach behind a seal: nobody reads them but what looks after the data, and whoever opens the seal */
  sealed: integer("sealed").notNull().default(0),
});

/** Pieces of columns, packed and compressed, by the hash of what they hold. */
export const barParts = sqliteTable("bar_parts", {
  hash: text("hash").primaryKey(),
  data: blob("data", { mode: "buffer" }).notNull(),
});

/** Bars made of other bars (a coarser timeframe under a session), by what they were made of. */
export const derivedBars = sqliteTable("derived_bars", {
  /** hash of source bars, timeframes and session */
  key: text("key").primaryKey(),
  barsHash: text("bars_hash")
    .notNull()
    .references(() => barSets.hash),
  outside: integer("outside").notNull(),
});

/** Files that were handed in, kept in the data folder until they are taken or dropped. */
export const uploads = sqliteTable("uploads", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull(),
  /** file in the data folder's uploads, and the entry inside it where it is an archive */
  file: text("file").notNull(),
  entry: text("entry"),
  packing: text("packing").notNull(),
  bytes: integer("bytes").notNull(),
  createdAt: integer("created_at").notNull(),
});

/** A file on its way into a source: read by a job, then taken or dropped as a whole. */
export const imports = sqliteTable("imports", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  /** null for bars that an update brought, and once the file is gone */
  uploadId: integer("upload_id"),
  name: text("name").notNull().default("the data service"),
  jobId: integer("job_id")
    .notNull()
    .references(() => jobs.id),
  /** market, source, format, what is to be done with changes */
  target: text("target").notNull(),
  /** reading, ready, taken, dropped */
  state: text("state").notNull(),
  /** what the file held, once it is read */
  report: text("report"),
  createdAt: integer("created_at").notNull(),
});

/** Quality reports by the hash of what they looked at. */
export const qualityReports = sqliteTable("quality_reports", {
  key: text("key").primaryKey(),
  /** QualityReport, gzip */
  report: blob("report", { mode: "buffer" }).notNull(),
});

/** Watchlists and exclusion lists. */
export const lists = sqliteTable("lists", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull(),
  /** watch, exclude */
  kind: text("kind").notNull(),
  /** symbols, or other lists: these minus those */
  rule: text("rule").notNull(),
  createdAt: integer("created_at").notNull(),
  updatedAt: integer("updated_at").notNull(),
  deletedAt: integer("deleted_at"),
});

/** Dated values beside the prices, each valid from its date on. */
export const extraSeries = sqliteTable(
  "extra_series",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    marketId: integer("market_id")
      .notNull()
      .references(() => markets.id),
    name: text("name").notNull(),
    /** times and values, as JSON */
    points: text("points").notNull(),
    origin: text("origin").notNull(),
    updatedAt: integer("updated_at").notNull(),
  },
  (table) => [uniqueIndex("extra_series_name").on(table.marketId, table.name)],
);

/** Choices of the whole installation, such as the data service's address and schedule. */
export const preferences = sqliteTable("preferences", {
  key: text("key").primaryKey(),
  value: text("value").notNull(),
});

/** A named line of versions of one idea. */
export const strategies = sqliteTable("strategies", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull(),
  status: text("status").notNull(),
  createdAt: integer("created_at").notNull(),
  updatedAt: integer("updated_at").notNull(),
  deletedAt: integer("deleted_at"),
});

export const versions = sqliteTable(
  "versions",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    strategyId: integer("strategy_id")
      .notNull()
      .references(() => strategies.id),
    number: integer("number").notNull(),
    /** canyon.strategy/1 */
    document: text("document").notNull(),
    /** hash of the document without name, notes, labels, abouts */
    hash: text("hash").notNull(),
    note: text("note").notNull(),
    /** run settings that the version was last looked at with */
    settings: text("settings"),
    /** what the audit for looking ahead found, with what it ran on; null before it ran */
    audit: text("audit"),
    createdAt: integer("created_at").notNull(),
  },
  (table) => [uniqueIndex("versions_number").on(table.strategyId, table.number)],
);

/** Run settings under a name, to be used with any strategy. */
export const runSettings = sqliteTable("run_settings", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull(),
  createdAt: integer("created_at").notNull(),
  deletedAt: integer("deleted_at"),
});

export const runSettingsVersions = sqliteTable(
  "run_settings_versions",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    settingsId: integer("settings_id")
      .notNull()
      .references(() => runSettings.id),
    number: integer("number").notNull(),
    /** what they fix, as JSON */
    saved: text("saved").notNull(),
    note: text("note").notNull(),
    createdAt: integer("created_at").notNull(),
  },
  (table) => [uniqueIndex("run_settings_versions_number").on(table.settingsId, table.number)],
);

/** One stored backtest of one version. */
export const runs = sqliteTable(
  "runs",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    versionId: integer("version_id")
      .notNull()
      .references(() => versions.id),
    number: integer("number").notNull(),
    fingerprint: text("fingerprint").notNull(),
    engine: text("engine").notNull(),
    /** canyon.settings/1, bars by hash */
    settings: text("settings").notNull(),
    metrics: text("metrics").notNull(),
    outline: text("outline").notNull(),
    /** the saved run settings that it was computed under, where they were taken as they are */
    underId: integer("under_id").references(() => runSettingsVersions.id),
    note: text("note").notNull().default(""),
    /** words with commas */
    tags: text("tags").notNull().default(""),
    pinned: integer("pinned", { mode: "boolean" }).notNull().default(false),
    /** canyon.result/1 without what is in run_parts, gzip; of runs stored before there were parts: all of it */
    result: blob("result", { mode: "buffer" }).notNull(),
    createdAt: integer("created_at").notNull(),
  },
  (table) => [index("runs_version").on(table.versionId)],
);

/** A run's long columns, packed and gzip: curves, trades, orders, events, levels. */
export const runParts = sqliteTable(
  "run_parts",
  {
    runId: integer("run_id")
      .notNull()
      .references(() => runs.id),
    part: text("part").notNull(),
    data: blob("data", { mode: "buffer" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.runId, table.part] })],
);

/** Long work of any kind. What is done is in job_chunks; a job goes on from there after a crash. */
export const jobs = sqliteTable("jobs", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  kind: text("kind").notNull(),
  title: text("title").notNull(),
  input: text("input").notNull(),
  /** queued, running, paused, done, cancelled, failed */
  state: text("state").notNull(),
  total: integer("total").notNull(),
  chunkSize: integer("chunk_size").notNull(),
  done: integer("done").notNull(),
  /** time spent working, over all starts */
  elapsed: integer("elapsed").notNull(),
  error: text("error"),
  /** jobs of a higher one go first, and others wait while they are at work */
  priority: integer("priority").notNull().default(0),
  /** threads that it may use at the same time; null: all */
  threads: integer("threads"),
  createdAt: integer("created_at").notNull(),
  finishedAt: integer("finished_at"),
});

export const jobChunks = sqliteTable(
  "job_chunks",
  {
    jobId: integer("job_id")
      .notNull()
      .references(() => jobs.id),
    chunk: integer("chunk").notNull(),
    finishedAt: integer("finished_at").notNull(),
  },
  (table) => [primaryKey({ columns: [table.jobId, table.chunk] })],
);

export const optimizations = sqliteTable("optimizations", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  versionId: integer("version_id")
    .notNull()
    .references(() => versions.id),
  jobId: integer("job_id")
    .notNull()
    .references(() => jobs.id),
  number: integer("number").notNull(),
  /** the search: vary, where, objective, limits */
  search: text("search").notNull(),
  settings: text("settings").notNull(),
  /** symbols that an exclusion list took out, and the plan it was started from, as JSON */
  origin: text("origin"),
  createdAt: integer("created_at").notNull(),
});

/** Set-ups of optimizations under a name, to be run again on other dates. */
export const plans = sqliteTable("plans", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  strategyId: integer("strategy_id")
    .notNull()
    .references(() => strategies.id),
  name: text("name").notNull(),
  /** the search, the markets, the share of the dates and the exclusion list, as JSON */
  document: text("document").notNull(),
  createdAt: integer("created_at").notNull(),
  updatedAt: integer("updated_at").notNull(),
  deletedAt: integer("deleted_at"),
});

/** Long looks at an optimization that are computed part by part, such as the best of as many trials on permuted bars. */
export const studies = sqliteTable("studies", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  kind: text("kind").notNull(),
  optimizationId: integer("optimization_id")
    .notNull()
    .references(() => optimizations.id),
  jobId: integer("job_id")
    .notNull()
    .references(() => jobs.id),
  input: text("input").notNull(),
  createdAt: integer("created_at").notNull(),
});

export const studyParts = sqliteTable(
  "study_parts",
  {
    studyId: integer("study_id")
      .notNull()
      .references(() => studies.id),
    part: integer("part").notNull(),
    output: text("output").notNull(),
  },
  (table) => [primaryKey({ columns: [table.studyId, table.part] })],
);

/** Trials as columns, in parts of as many as were computed together: millions of them are sorted and filtered by a few columns, and never read as rows. */
export const trialColumns = sqliteTable(
  "trial_columns",
  {
    optimizationId: integer("optimization_id")
      .notNull()
      .references(() => optimizations.id),
    /** combination, or a metric's key */
    column: text("column").notNull(),
    /** number of the part's first trial */
    first: integer("first").notNull(),
    /** float64 in the machine's order, NaN for no value */
    data: blob("data", { mode: "buffer" }).notNull(),
  },
  (table) => [uniqueIndex("trial_columns_part").on(table.optimizationId, table.column, table.first)],
);

/** Trials of optimizations that version 0.5.0 and earlier computed, as rows; they become columns when the server starts. */
export const trials = sqliteTable(
  "trials",
  {
    optimizationId: integer("optimization_id")
      .notNull()
      .references(() => optimizations.id),
    number: integer("number").notNull(),
    values: text("values").notNull(),
    fit: real("fit"),
    metrics: text("metrics").notNull(),
  },
  (table) => [primaryKey({ columns: [table.optimizationId, table.number] }), index("trials_fit").on(table.optimizationId, table.fit)],
);

/** A probe of one version: its criteria are set before it runs. What it gave is in probe_results, all of it, for good. */
export const probes = sqliteTable("probes", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  versionId: integer("version_id")
    .notNull()
    .references(() => versions.id),
  kind: text("kind").notNull(),
  /** run settings and the input of the probe's kind, criteria included */
  input: text("input").notNull(),
  criteriaSetAt: integer("criteria_set_at").notNull(),
  /** hash of what the newest result rests on */
  basis: text("basis"),
  outcome: text("outcome"),
  ranAt: integer("ran_at"),
  /** engine of the newest result; null for results before 0.7.0 */
  engine: text("engine"),
  /** the job that computes it, or did last */
  jobId: integer("job_id").references(() => jobs.id),
  /** the cascade's run that it belongs to, and its place there */
  cascadeRunId: integer("cascade_run_id"),
  stage: integer("stage"),
  createdAt: integer("created_at").notNull(),
});

/** Every result that a probe ever had, those that newer ones replaced included. */
export const probeResults = sqliteTable(
  "probe_results",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    probeId: integer("probe_id")
      .notNull()
      .references(() => probes.id),
    /** the input that it ran with, bars by hash */
    input: text("input").notNull(),
    basis: text("basis").notNull(),
    outcome: text("outcome").notNull(),
    ranAt: integer("ran_at").notNull(),
  },
  (table) => [index("probe_results_probe").on(table.probeId)],
);

/** Units of a probe whose job is not over. */
export const probeUnits = sqliteTable(
  "probe_units",
  {
    jobId: integer("job_id")
      .notNull()
      .references(() => jobs.id),
    /** number of the first unit that it holds */
    first: integer("first").notNull(),
    output: text("output").notNull(),
  },
  (table) => [primaryKey({ columns: [table.jobId, table.first] })],
);

/** Failures that somebody decided to go on in spite of: with a reason and a name, for good. */
export const overrulings = sqliteTable(
  "overrulings",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    probeId: integer("probe_id")
      .notNull()
      .references(() => probes.id),
    /** of the result that was overruled; a newer result is not */
    basis: text("basis").notNull(),
    reason: text("reason").notNull(),
    name: text("name").notNull(),
    at: integer("at").notNull(),
  },
  (table) => [index("overrulings_probe").on(table.probeId)],
);

/** From which date on a market's bars are sealed. A seal may move on to a later date; what it leaves was opened then. */
export const seals = sqliteTable("seals", {
  marketId: integer("market_id")
    .primaryKey()
    .references(() => markets.id),
  fromDate: text("from_date").notNull(),
  sealedAt: integer("sealed_at").notNull(),
});

/** Looks behind a seal, for good: who looked with which version, why, and at what. */
export const sealOpenings = sqliteTable(
  "seal_openings",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    marketId: integer("market_id")
      .notNull()
      .references(() => markets.id),
    /** null where the seal itself was moved on */
    versionId: integer("version_id").references(() => versions.id),
    fromDate: text("from_date").notNull(),
    /** the last date that was seen */
    toDate: text("to_date").notNull(),
    reason: text("reason").notNull(),
    name: text("name").notNull(),
    at: integer("at").notNull(),
  },
  (table) => [index("seal_openings_market").on(table.marketId)],
);

/** Deliberate moves of a strategy's status, with the evidence that each rested on. */
export const statusMoves = sqliteTable(
  "status_moves",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    strategyId: integer("strategy_id")
      .notNull()
      .references(() => strategies.id),
    versionId: integer("version_id")
      .notNull()
      .references(() => versions.id),
    before: text("before").notNull(),
    after: text("after").notNull(),
    reason: text("reason").notNull(),
    name: text("name").notNull(),
    /** layers as they stood: name and state of each that it rests on */
    evidence: text("evidence").notNull(),
    at: integer("at").notNull(),
  },
  (table) => [index("status_moves_strategy").on(table.strategyId)],
);

/** Ordered sets of probes with their criteria, under a name. */
export const cascades = sqliteTable("cascades", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull(),
  about: text("about").notNull(),
  /** canyon.cascade/1 */
  document: text("document").notNull(),
  createdAt: integer("created_at").notNull(),
  updatedAt: integer("updated_at").notNull(),
  deletedAt: integer("deleted_at"),
});

/** A cascade at work on versions; it keeps the stages as they were when it began. */
export const cascadeRuns = sqliteTable("cascade_runs", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  cascadeId: integer("cascade_id")
    .notNull()
    .references(() => cascades.id),
  document: text("document").notNull(),
  /** ids of the versions, as JSON */
  versions: text("versions").notNull(),
  /** versions that could not be probed at a stage, with the reason, as JSON */
  stuck: text("stuck").notNull(),
  createdAt: integer("created_at").notNull(),
  stoppedAt: integer("stopped_at"),
});

/** What was tried while rules were written: each distinct strategy and settings once, since a look at its result is a trial. */
export const tries = sqliteTable(
  "tries",
  {
    strategyId: integer("strategy_id")
      .notNull()
      .references(() => strategies.id),
    hash: text("hash").notNull(),
    fromDate: text("from_date"),
    toDate: text("to_date"),
    /** symbols with commas; null for those of before 0.7.0 */
    markets: text("markets"),
    at: integer("at").notNull(),
  },
  (table) => [primaryKey({ columns: [table.strategyId, table.hash] })],
);

/** Definitions of the user's own, beside those that ship with Canyon. */
export const definitions = sqliteTable("definitions", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull().unique(),
  kind: text("kind").notNull(),
  title: text("title").notNull(),
  about: text("about").notNull(),
  rule: text("rule").notNull(),
  updatedAt: integer("updated_at").notNull(),
});

/** Every trial counts: how many were spent on a line, by what, and on which stretch of data. */
export const ledger = sqliteTable(
  "ledger",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    strategyId: integer("strategy_id")
      .notNull()
      .references(() => strategies.id),
    what: text("what").notNull(),
    reference: integer("reference").notNull(),
    count: integer("count").notNull(),
    fromDate: text("from_date"),
    toDate: text("to_date"),
    /** symbols with commas; null for those of before 0.7.0 */
    markets: text("markets"),
    at: integer("at").notNull(),
  },
  (table) => [uniqueIndex("ledger_reference").on(table.what, table.reference)],
);

export * from "./portfolio-tables";
