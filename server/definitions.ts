import { asc, eq } from "drizzle-orm";
import { definitionProblems, readDefinitions, READY_MADE, type DefinitionsFile, type LibraryDefinition } from "#core/library";
import type { Database } from "./db/open";
import { definitions } from "./db/schema";
import { Refused, refuse } from "./problem";

/** A definition of the user's own. */
export interface OwnDefinition extends LibraryDefinition {
  id: number;
}

/** The user's own definitions, beside those that ship with Canyon. */
export class Definitions {
  constructor(private readonly db: Database) {}

  /** All own definitions, by name. */
  async own(): Promise<OwnDefinition[]> {
    const rows = await this.db.select().from(definitions).orderBy(asc(definitions.name));
    return rows.map(({ id, name, kind, title, about, rule }) => ({ id, name, kind: kind as OwnDefinition["kind"], title, about, rule }));
  }

  /** Adds a definition, or changes the one of an id; refuses with every problem. */
  async save(given: LibraryDefinition, id: number | null = null): Promise<void> {
    const problems = definitionProblems(given);
    if (given.title.trim() === "") problems.push({ path: "title", message: "a title says what the definition is" });
    if (READY_MADE.some(({ name }) => name === given.name))
      problems.push({ path: "name", message: `“${given.name}” is one of the ready-made ones; choose another name` });
    const taken = (await this.own()).find((one) => one.name === given.name && one.id !== id);
    if (taken !== undefined) problems.push({ path: "name", message: `there is a definition “${given.name}” already` });
    if (problems.length > 0) throw new Refused(problems);
    const row = { ...given, updatedAt: Date.now() };
    if (id === null) await this.db.insert(definitions).values(row);
    else await this.db.update(definitions).set(row).where(eq(definitions.id, id));
  }

  /** Takes a definition out, and gives what it was, so that it can be put back. Strategies that took it over keep their copy. */
  async remove(id: number): Promise<LibraryDefinition> {
    const found = (await this.own()).find((one) => one.id === id);
    if (found === undefined) return refuse("definition", "this definition does not exist any more", 404);
    await this.db.delete(definitions).where(eq(definitions.id, id));
    const { id: _id, ...definition } = found;
    return definition;
  }

  /** `canyon.definitions/1` of all own definitions. */
  async file(): Promise<DefinitionsFile> {
    return { format: "canyon.definitions/1", definitions: (await this.own()).map(({ id: _id, ...definition }) => definition) };
  }

  /** Takes over the definitions of a file; those of a name that is there already take its place. All or none. */
  async takeFile(given: unknown): Promise<{ added: number; changed: number }> {
    const read = readDefinitions(given);
    if (read.value === null) throw new Refused(read.problems);
    const own = new Map((await this.own()).map((one) => [one.name, one.id]));
    const fresh = read.value.definitions.filter((one) => !READY_MADE.some(({ name, rule }) => name === one.name && rule === one.rule));
    const clash = fresh.findIndex((one) => READY_MADE.some(({ name }) => name === one.name));
    if (clash >= 0)
      refuse(
        `definitions.${fresh[clash].name}`,
        `“${fresh[clash].name}” is one of the ready-made ones, with another formula; give it another name in the file`,
      );
    const now = Date.now();
    const statements = fresh.map((one) => {
      const id = own.get(one.name);
      return id === undefined
        ? this.db.insert(definitions).values({ ...one, updatedAt: now })
        : this.db
            .update(definitions)
            .set({ ...one, updatedAt: now })
            .where(eq(definitions.id, id));
    });
    if (statements.length > 0) await this.db.batch(statements as [(typeof statements)[0]]);
    const changed = fresh.filter((one) => own.has(one.name)).length;
    return { added: fresh.length - changed, changed };
  }
}
