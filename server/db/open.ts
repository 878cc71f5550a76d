import { createClient, type Client } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import * as schema from "./schema";

export type Database = LibSQLDatabase<typeof schema> & { $client: Client };

/** The file of the database in a data folder. */
export const databaseFile = (folder: string): string => join(folder, "canyon.db");

/** Opens the database of a data folder, making both where they are missing, and brings its tables up to date. */
export async function openDatabase(folder: string, migrationsFolder: string): Promise<Database> {
  mkdirSync(folder, { recursive: true });
  const client = createClient({ url: pathToFileURL(databaseFile(folder)).href });
  await client.execute("PRAGMA journal_mode = WAL");
  await client.execute("PRAGMA synchronous = NORMAL");
  await client.execute("PRAGMA busy_timeout = 5000");
  const db = drizzle(client, { schema });
  await migrate(db, { migrationsFolder });
  return db;
}

/** Opens an existing database for reading only what is written elsewhere (worker threads). */
export function openForReading(folder: string): Database {
  return drizzle(createClient({ url: pathToFileURL(databaseFile(folder)).href }), { schema });
}
