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
    /** MarketSpec */
    spec: text("spec").notNull(),
    /** cost preset that run settings start from */
    costs: text("costs").notNull(),
    createdAt: integer("created_at").notNull(),
    deletedAt: integer("deleted_at"),
  },
  (table) => [index("markets_symbol").on(table.symbol)],
);

/** Where a market's bars come from; one is the default. `barsHash` names the bars. */
export const sources = sqliteTable(
  "sources",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    marketId: integer("market_id")
      .notNull()
      .references(() => markets.id),
    name: text("name").notNull(),
    isDefault: integer("is_default").notNull(),
    timeframe: text("timeframe").notNull(),
    barsHash: text("bars_hash")
      .notNull()
      .references(() => barSets.hash),
    updatedAt: integer("updated_at").notNull(),
  },
  (table) => [uniqueIndex("sources_name").on(table.marketId, table.name)],
);

/** Bars by the hash of their columns. They never change: new data is a new set. */
export const barSets = sqliteTable("bar_sets", {
  hash: text("hash").primaryKey(),
  count: integer("count").notNull(),
  firstTime: integer("first_time").notNull(),
  lastTime: integer("last_time").notNull(),
  lastClose: real("last_close").notNull(),
  /** a hundred closes, evenly spaced, for the small curve in lists */
  outline: text("outline").notNull(),
});

/** Columns of bars in compressed chunks. */
export const barChunks = sqliteTable(
  "bar_chunks",
  {
    hash: text("hash")
      .notNull()
      .references(() => barSets.hash),
    part: integer("part").notNull(),
    data: blob("data", { mode: "buffer" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.hash, table.part] })],
);

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
    createdAt: integer("created_at").notNull(),
  },
  (table) => [uniqueIndex("versions_number").on(table.strategyId, table.number)],
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
    /** canyon.result/1, gzip */
    result: blob("result", { mode: "buffer" }).notNull(),
    createdAt: integer("created_at").notNull(),
  },
  (table) => [index("runs_version").on(table.versionId)],
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
  createdAt: integer("created_at").notNull(),
});

/** Trials are rows: sorted and filtered here, never in a page's memory. */
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

/** A probe of one version: its criteria are set before it runs, its result belongs to exactly what it rested on. */
export const probes = sqliteTable("probes", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  versionId: integer("version_id")
    .notNull()
    .references(() => versions.id),
  kind: text("kind").notNull(),
  /** input of the probe's kind, criteria included */
  input: text("input").notNull(),
  criteriaSetAt: integer("criteria_set_at").notNull(),
  /** hash of what the result rests on */
  basis: text("basis"),
  outcome: text("outcome"),
  ranAt: integer("ran_at"),
  createdAt: integer("created_at").notNull(),
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
    at: integer("at").notNull(),
  },
  (table) => [uniqueIndex("ledger_reference").on(table.what, table.reference)],
);

export const portfolios = sqliteTable("portfolios", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  name: text("name").notNull(),
  /** members (version, markets, weight) and run settings */
  document: text("document").notNull(),
  revision: integer("revision").notNull(),
  createdAt: integer("created_at").notNull(),
  updatedAt: integer("updated_at").notNull(),
  deletedAt: integer("deleted_at"),
});
