import { readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import { cascadeSchema } from "#core/cascades";
import { jsonSchemaOf, marketSchema, settingsSchema, strategySchema } from "#core/documents";
import { definitionsSchema } from "#core/library";
import { ordersSchema } from "#core/orders";
import { portfolioSchema } from "#core/portfolio";
import { walkForwardSchema } from "#core/walk-forward";
import { optimizationSchema } from ".";

const folder = fileURLToPath(new URL("../../docs/formats/", import.meta.url));
const SCHEMAS = [
  ["strategy", "A strategy", strategySchema],
  ["settings", "Run settings", settingsSchema],
  ["market", "A market", marketSchema],
  ["optimization", "An optimization", optimizationSchema],
  ["walk-forward", "A walk-forward", walkForwardSchema],
  ["portfolio", "A portfolio", portfolioSchema],
  ["orders", "An order sheet", ordersSchema],
  ["cascade", "A cascade", cascadeSchema],
  ["definitions", "Definitions to share", definitionsSchema],
] as const;

describe("the published JSON Schemas", () => {
  it.each(SCHEMAS)("%s is the one that the reader's own schema gives", (name, title, schema) => {
    const made = `${JSON.stringify(jsonSchemaOf(schema, title, `canyon.${name}/1`), null, 2)}\n`;
    const path = `${folder}canyon.${name}.1.schema.json`;
    // UPDATE_SCHEMAS=1 writes them anew after a reader has changed
    if (process.env.UPDATE_SCHEMAS === "1") writeFileSync(path, made);
    expect(readFileSync(path, "utf8")).toBe(made);
  });

  it("say what is required, what may be chosen, and that nothing else may stand there", () => {
    const strategy = jsonSchemaOf(strategySchema, "A strategy", "canyon.strategy/1") as {
      required: string[];
      additionalProperties: boolean;
      properties: Record<string, { properties: Record<string, unknown>; enum?: unknown[] }>;
    };
    expect(strategy.required).toEqual(["format", "timeframe", "sizing"]);
    expect(strategy.additionalProperties).toBe(false);
    expect(strategy.properties.onOpposite.enum).toEqual(["reverse", "close", "ignore", null]);
    expect(strategy.properties.sizing.properties.mode).toEqual({
      enum: ["units", "cash", "equityPercent", "riskPercent", "atrPercent", "equalShare"],
    });
    expect(strategy.properties.format).toEqual({ const: "canyon.strategy/1" });
  });
});
