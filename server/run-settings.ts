import { and, asc, desc, eq, isNull } from "drizzle-orm";
import { readSavedSettings, type SavedSettings } from "#core/settings";
import type { Database } from "./db/open";
import { runSettings, runSettingsVersions } from "./db/schema";
import { Refused, refuse } from "./problem";

/** One version of saved run settings. */
export interface SettingsVersion {
  versionId: number;
  number: number;
  saved: SavedSettings;
  note: string;
  createdAt: number;
}

/** Saved run settings with the version that is looked at. */
export interface NamedSettings extends SettingsVersion {
  id: number;
  name: string;
}

/** Saved run settings with all their versions, newest first. */
export interface SettingsHistory {
  id: number;
  name: string;
  deletedAt: number | null;
  versions: SettingsVersion[];
}

/** Run settings under names, each with its versions. */
export class RunSettingsStore {
  constructor(private readonly db: Database) {}

  private rows() {
    return this.db
      .select({
        id: runSettings.id,
        name: runSettings.name,
        deletedAt: runSettings.deletedAt,
        versionId: runSettingsVersions.id,
        number: runSettingsVersions.number,
        saved: runSettingsVersions.saved,
        note: runSettingsVersions.note,
        createdAt: runSettingsVersions.createdAt,
      })
      .from(runSettingsVersions)
      .innerJoin(runSettings, eq(runSettings.id, runSettingsVersions.settingsId));
  }

  /** The newest version of each, by name. */
  async list(): Promise<NamedSettings[]> {
    const rows = await this.rows()
      .where(isNull(runSettings.deletedAt))
      .orderBy(asc(runSettings.name), asc(runSettings.id), desc(runSettingsVersions.number));
    return rows
      .filter((row, i) => i === 0 || rows[i - 1].id !== row.id)
      .map(({ deletedAt: _deletedAt, ...row }) => ({ ...row, saved: JSON.parse(row.saved) as SavedSettings }));
  }

  async get(id: number): Promise<SettingsHistory | null> {
    const rows = await this.rows().where(eq(runSettings.id, id)).orderBy(desc(runSettingsVersions.number));
    if (rows.length === 0) return null;
    return {
      id,
      name: rows[0].name,
      deletedAt: rows[0].deletedAt,
      versions: rows.map(({ versionId, number, saved, note, createdAt }) => ({
        versionId,
        number,
        saved: JSON.parse(saved) as SavedSettings,
        note,
        createdAt,
      })),
    };
  }

  /** One version by its number, of settings that were taken out, too; null where there is none. */
  async version(id: number, number: number): Promise<NamedSettings | null> {
    const history = await this.get(id);
    const version = history?.versions.find((one) => one.number === number);
    return history === null || version === undefined ? null : { id, name: history.name, ...version };
  }

  private async check(id: number | null, name: string, given: unknown): Promise<SavedSettings> {
    const read = readSavedSettings(given);
    const problems = [...read.problems];
    if (name.trim() === "") problems.push({ path: "name", message: "run settings need a name" });
    if ((await this.list()).some((one) => one.name === name.trim() && one.id !== id))
      problems.push({ path: "name", message: `there are run settings “${name.trim()}” already` });
    if (problems.length > 0) throw new Refused(problems);
    return read.value!;
  }

  /** Stores new ones; gives their id. Refuses with every problem. */
  async create(name: string, given: unknown, note = ""): Promise<number> {
    const saved = await this.check(null, name, given);
    const { rows } = await this.db.$client.execute("SELECT COALESCE(MAX(id), 0) + 1 AS id FROM run_settings");
    const id = Number(rows[0].id);
    const createdAt = Date.now();
    await this.db.batch([
      this.db.insert(runSettings).values({ id, name: name.trim(), createdAt }),
      this.db.insert(runSettingsVersions).values({ settingsId: id, number: 1, saved: JSON.stringify(saved), note, createdAt }),
    ]);
    return id;
  }

  /**
   * Stores the next version, which must follow `basedOn`, and the name; gives the version's number. What says the same as
   * the newest version makes no new one.
   */
  async save(id: number, basedOn: number, name: string, given: unknown, note = ""): Promise<number> {
    const history = await this.get(id);
    if (history === null || history.deletedAt !== null) return refuse("settings", "these run settings were taken out meanwhile", 404);
    const saved = await this.check(id, name, given);
    const [newest] = history.versions;
    if (newest.number !== basedOn)
      return refuse("settings", `version ${newest.number} was saved meanwhile; load the page again to see it`, 409);
    const changed = JSON.stringify(saved) !== JSON.stringify(newest.saved);
    const number = changed ? newest.number + 1 : newest.number;
    const renamed = this.db.update(runSettings).set({ name: name.trim() }).where(eq(runSettings.id, id));
    const next = this.db
      .insert(runSettingsVersions)
      .values({ settingsId: id, number, saved: JSON.stringify(saved), note, createdAt: Date.now() });
    await this.db.batch(changed ? [renamed, next] : [renamed]);
    return number;
  }

  /** Takes settings out; their versions stay, since runs name them. */
  async remove(id: number): Promise<void> {
    const gone = await this.db
      .update(runSettings)
      .set({ deletedAt: Date.now() })
      .where(and(eq(runSettings.id, id), isNull(runSettings.deletedAt)));
    if (gone.rowsAffected === 0) refuse("settings", "these run settings do not exist any more", 404);
  }

  /** Brings settings back that were taken out; another name where theirs was taken meanwhile. */
  async putBack(id: number): Promise<void> {
    const history = await this.get(id);
    if (history === null) return refuse("settings", "these run settings do not exist any more", 404);
    const taken = new Set((await this.list()).filter((one) => one.id !== id).map((one) => one.name));
    let { name } = history;
    for (let k = 2; taken.has(name); k++) name = `${history.name} ${k}`;
    await this.db.update(runSettings).set({ deletedAt: null, name }).where(eq(runSettings.id, id));
  }
}

/** What a page needs to lay run settings over others: one's own, and those that its address names (`ID.VERSION`), if it does. */
export async function namedSettings(
  { runSettings: store }: { runSettings: RunSettingsStore },
  address: string | null,
): Promise<{ named: NamedSettings[]; laidOver: NamedSettings | null }> {
  const [id, number] =
    /^(\d+)\.(\d+)$/
      .exec(address ?? "")
      ?.slice(1)
      .map(Number) ?? [];
  const [named, laidOver] = await Promise.all([store.list(), id === undefined ? null : store.version(id, number)]);
  return { named, laidOver };
}
