import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { Page } from "puppeteer-core";

const axe = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** Serious and critical violations on the page as it stands: every rule in the light theme, contrast in the dark one, too, since a theme changes colours and nothing else. */
export async function seriousViolations(page: Page): Promise<string[]> {
  // injected past the page's own policy, as a tester's tool
  await page.evaluate(axe);
  const found: string[] = [];
  for (const [theme, rules] of [
    ["limestone", null],
    ["dusk", ["color-contrast"]],
  ] as const) {
    await page.evaluate((t) => (document.documentElement.dataset.theme = t), theme);
    await new Promise((resolve) => setTimeout(resolve, 250));
    const violations = await page.evaluate(async (only) => {
      const run = (
        window as unknown as {
          axe: { run: (options: object) => Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }> };
        }
      ).axe.run;
      return (await run({ resultTypes: ["violations"], ...(only === null ? {} : { runOnly: only }) })).violations
        .filter((v) => v.impact === "serious" || v.impact === "critical")
        .map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`);
    }, rules);
    found.push(...violations.map((v) => `(${theme}) ${v}`));
  }
  return found;
}
