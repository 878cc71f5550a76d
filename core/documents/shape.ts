import * as yup from "yup";

/** What is wrong with a document: the path to the place (`long.enter.order.type`) and a sentence. */
export interface DocumentProblem {
  path: string;
  message: string;
}

export type Read<T> = { value: T; problems: [] } | { value: null; problems: DocumentProblem[] };

/** An object that refuses keys it does not know, each under its own path. `null` stands for a key that is left out. */
export function exact<S extends yup.ObjectShape>(shape: S, noun: string) {
  return yup
    .object(shape)
    .typeError(`${noun} must be an object`)
    .test("exact", function (value: unknown) {
      if (value === null || value === undefined || typeof value !== "object") return true;
      const errors = Object.keys(value)
        .filter((key) => !(key in shape))
        .map((key) =>
          this.createError({
            path: this.path ? `${this.path}.${key}` : key,
            message: `“${key}” isn't a key here; ${noun} has ${Object.keys(shape).join(", ")}`,
          }),
        );
      return errors.length === 0 ? true : (new yup.ValidationError(errors) as unknown as yup.ValidationError);
    });
}

export const text = () => yup.string().typeError("must be a text");
export const number = () =>
  yup
    .number()
    .typeError("must be a number")
    .test("finite", "must be a finite number", (x) => x === undefined || x === null || Number.isFinite(x));
export const whole = () => number().integer("must be a whole number");
export const truth = () => yup.boolean().typeError("must be true or false");
export const oneOf = <T extends string>(values: readonly T[]) =>
  text().oneOf([...values, null] as T[], `must be one of ${values.join(", ")}`);
export const list = <T extends yup.Schema>(of: T) => yup.array(of).typeError("must be a list");

/** A number, or the name of a parameter that stands for one. */
export const figure = () =>
  yup
    .mixed<number | string>()
    .test(
      "figure",
      "must be a number or the name of a parameter",
      (x) => x === undefined || x === null || typeof x === "string" || (typeof x === "number" && Number.isFinite(x)),
    );

/** A parameter's value: a number, or true or false for a yes/no. */
export const numberOrTruth = () =>
  yup
    .mixed<number | boolean>()
    .test(
      "value",
      "must be a number, or true or false",
      (x) => x === undefined || typeof x === "boolean" || (typeof x === "number" && Number.isFinite(x)),
    );

/** Checks a value against a schema without changing it. Problems come in the order of the document's keys as far as known. */
export function checkShape(schema: yup.Schema, value: unknown): DocumentProblem[] {
  if (value === null || typeof value !== "object" || Array.isArray(value))
    return [{ path: "", message: "The document must be a JSON object" }];
  try {
    schema.validateSync(withoutNulls(value), { strict: true, abortEarly: false });
    return [];
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    return flatten(error).map(({ path, message }) => ({ path, message: sentence(path, message) }));
  }
}

function flatten(error: yup.ValidationError): { path: string; message: string }[] {
  if (error.inner.length > 0) return error.inner.flatMap(flatten);
  return [{ path: error.path ?? "", message: error.message }];
}

function sentence(path: string, message: string): string {
  const last = path.split(".").pop()!;
  const named = /^[“A-Z]/.test(message)
    ? message
    : `${last} ${message.replace(new RegExp(`^${path.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")} `), "")}`;
  return named.replace(/is a required field/, "is required");
}

/** The value without keys that hold null: null is as if left out. */
export function withoutNulls(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutNulls);
  if (value === null || typeof value !== "object") return value;
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, v]) => v !== null && v !== undefined)
      .map(([k, v]) => [k, withoutNulls(v)]),
  );
}

/** Checks that a document says what it is. */
export const formatKey = (format: string) =>
  text()
    .required()
    .test("format", `must be “${format}”; other formats and versions aren't read here`, (x) => x === format);
