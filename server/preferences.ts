import { eq, inArray } from "drizzle-orm";
import type { Database } from "./db/open";
import { preferences } from "./db/schema";
import { refuse } from "./problem";

/** Ordered choices that are remembered: which columns trades have, which figures a report shows first, which figures tables of trials show. */
export const CHOICES = ["tradeColumns", "reportFigures", "trialColumns"] as const;
export type Choice = (typeof CHOICES)[number];
/** Null where nobody has chosen yet. */
export type Choices = Record<Choice, string[] | null>;

/** What is remembered of how somebody likes to look at things. */
export class Preferences {
  constructor(private readonly db: Database) {}

  async choices(): Promise<Choices> {
    const rows = await this.db
      .select()
      .from(preferences)
      .where(inArray(preferences.key, [...CHOICES]));
    const held = new Map(rows.map(({ key, value }) => [key, JSON.parse(value) as string[]]));
    return Object.fromEntries(CHOICES.map((key) => [key, held.get(key) ?? null])) as Choices;
  }

  /** Remembers a choice; null forgets it. Refuses what is no list of words, and a choice that there is none of. */
  async choose(choice: string, keys: unknown): Promise<void> {
    if (!(CHOICES as readonly string[]).includes(choice)) refuse("choice", `there is nothing called “${choice}” to choose`);
    if (keys === null) {
      await this.db.delete(preferences).where(eq(preferences.key, choice));
      return;
    }
    if (!Array.isArray(keys) || keys.length === 0 || keys.length > 200 || !keys.every((key) => typeof key === "string" && key.length < 60))
      refuse("keys", "a choice is a list of one or more words");
    const value = JSON.stringify(keys);
    await this.db.insert(preferences).values({ key: choice, value }).onConflictDoUpdate({ target: preferences.key, set: { value } });
  }
}
