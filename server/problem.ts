import type { DocumentProblem } from "#core/documents";

/** Something that a user asked for can't be done; the problems say what and where. Not for bugs. */
export class Refused extends Error {
  constructor(
    readonly problems: DocumentProblem[],
    readonly status = 400,
  ) {
    super(problems.map((p) => p.message).join("; "));
    this.name = "Refused";
  }
}

/**
 * Whether an error is a refusal. Told by its name, since pages and services are bundled apart and each has a class of its
 * own.
 */
export const isRefused = (error: unknown): error is Refused => error instanceof Error && error.name === "Refused";

export const refuse = (path: string, message: string, status = 400): never => {
  throw new Refused([{ path, message }], status);
};
