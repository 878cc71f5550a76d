import { index, integer, sqliteTable, text } from "drizzle-orm/sqlite-core";

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

/** Every saved state of a portfolio, with why it was saved. The newest is the one in `portfolios`. */
export const portfolioVersions = sqliteTable(
  "portfolio_versions",
  {
    id: integer("id").primaryKey({ autoIncrement: true }),
    portfolioId: integer("portfolio_id")
      .notNull()
      .references(() => portfolios.id),
    number: integer("number").notNull(),
    name: text("name").notNull(),
    document: text("document").notNull(),
    note: text("note").notNull().default(""),
    createdAt: integer("created_at").notNull(),
  },
  (table) => [index("portfolio_versions_portfolio").on(table.portfolioId)],
);

/** Selections that were looked at when the best few of many were chosen: each look makes the best of them more of a chance find. */
export const portfolioLooks = sqliteTable("portfolio_looks", {
  id: integer("id").primaryKey({ autoIncrement: true }),
  /** what was asked, as a text that tells questions apart: the same question is counted once */
  question: text("question").notNull().unique(),
  count: integer("count").notNull(),
  fromDate: text("from_date").notNull(),
  toDate: text("to_date").notNull(),
  /** what was chosen: version ids with commas */
  chosen: text("chosen").notNull(),
  at: integer("at").notNull(),
});
