import type * as yup from "yup";
import type { Schema } from "yup";

/** A JSON Schema (draft 2020-12) as plain data. */
export type JsonSchema = Record<string, unknown>;

type Described = yup.SchemaFieldDescription;

/**
 * The JSON Schema of a document, out of the same Yup schema that reads it: types, choices, required keys, and that no other
 * key may stand there. null stands for a key that is left out, so every optional key allows it. What goes beyond shape
 * (formulas, names, what fits together) is checked by the reader alone.
 */
export function jsonSchemaOf(schema: Schema, title: string, format: string): JsonSchema {
  return {
    $schema: "https://json-schema.org/draft/2020-12/schema",
    title,
    ...convert(schema.describe(), true),
    properties: { ...(convert(schema.describe(), true).properties as JsonSchema), format: { const: format } },
  };
}

function convert(given: Described, required: boolean): JsonSchema {
  const allow = (type: string): string | string[] => (required ? type : [type, "null"]);
  if (!("type" in given)) return {};
  switch (given.type) {
    case "object": {
      const { fields } = given as yup.SchemaObjectDescription;
      const keys = Object.entries(fields);
      if (keys.length === 0) return { type: allow("object") };
      const needed = keys.filter(([, field]) => isRequired(field)).map(([key]) => key);
      return {
        type: allow("object"),
        properties: Object.fromEntries(keys.map(([key, field]) => [key, convert(field, isRequired(field))])),
        ...(needed.length > 0 ? { required: needed } : {}),
        additionalProperties: false,
      };
    }
    case "array": {
      const { innerType } = given as yup.SchemaInnerTypeDescription;
      const items = Array.isArray(innerType) ? innerType[0] : innerType;
      return { type: allow("array"), ...(items ? { items: convert(items, true) } : {}) };
    }
    case "string": {
      const choices = (given as yup.SchemaDescription).oneOf.filter((choice) => choice !== null);
      return choices.length > 0 ? { enum: required ? choices : [...choices, null] } : { type: allow("string") };
    }
    case "number":
      return { type: allow((given as yup.SchemaDescription).tests.some((test) => test.name === "integer") ? "integer" : "number") };
    case "boolean":
      return { type: allow("boolean") };
    default: {
      const names = (given as yup.SchemaDescription).tests.map((test) => test.name);
      const types = names.includes("figure")
        ? ["number", "string"]
        : names.includes("value")
          ? ["number", "boolean"]
          : names.includes("document")
            ? ["object", "string"]
            : ["object"];
      return { type: required ? types : [...types, "null"] };
    }
  }
}

const isRequired = (field: Described): boolean => "optional" in field && !(field as yup.SchemaDescription).optional;
