import { readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import { FUNCTIONS, POSITION, SERIES } from ".";

const path = fileURLToPath(new URL("../../docs/rule-notation.md", import.meta.url));
const cell = (text: string): string => text.replace(/\|/g, "\\|");
const table = (heads: string[], rows: string[][]): string =>
  [heads, heads.map(() => "---"), ...rows].map((row) => `| ${row.map(cell).join(" | ")} |`).join("\n");

const SECTIONS: Record<string, string> = {
  position: table(
    ["name", "meaning"],
    [...POSITION].map(([name, { definition }]) => [`\`${name}\``, definition]),
  ),
  series: table(
    ["name", "meaning"],
    [...SERIES].map(([name, { definition }]) => [`\`${name}\``, definition]),
  ),
  functions: table(
    ["example", "definition", "parts", "source"],
    [...FUNCTIONS.values()].map(({ example, definition, parts = [], source = "" }) => [
      `\`${example}\``,
      definition,
      parts.map((part) => `\`.${part}\``).join(" "),
      source,
    ]),
  ),
};

describe("the page on the notation", () => {
  it("holds what the registry says", () => {
    const before = readFileSync(path, "utf8");
    let page = before;
    for (const [name, text] of Object.entries(SECTIONS))
      page = page.replace(
        new RegExp(`(<!-- ${name} -->\\n)[\\s\\S]*?(<!-- end -->)`),
        (_all, start: string, end: string) => `${start}${text}\n${end}`,
      );
    // UPDATE_DOCS=1 writes it anew after the registry has changed
    if (process.env.UPDATE_DOCS === "1") writeFileSync(path, page);
    else expect(before).toBe(page);
    for (const name of Object.keys(SECTIONS)) expect(page).toContain(`<!-- ${name} -->`);
  });
});
