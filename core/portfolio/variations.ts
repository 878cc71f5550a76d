import { parseDate } from "#core/bars";
import type { Settings } from "#core/documents";
import { entriesRestOnPosition, givenUpFrom, prepareRun, simulate, type PreparedRun, type Simulation } from "#core/engine";
import type { PreparedMembers } from "./portfolio";

/** Members of a portfolio that are ready to run, with what an account is run under. */
export interface Account {
  prepared: PreparedMembers;
  settings: Settings;
}

/** Weights of some members from a date on (null: from the start). */
export interface WeightSet {
  from: string | null;
  weights: readonly number[];
}

/** Runs some of the members (by number) with weights on one account; what the members' columns hold is shared by all such runs. */
export const runOf = (account: Account, chosen: readonly number[], weights: readonly number[]): PreparedRun =>
  runAlong(account, chosen, [{ from: null, weights }]);

/** The same with weights that change along the way; the first set holds from the start. */
export function runAlong({ prepared, settings }: Account, chosen: readonly number[], [first, ...later]: readonly WeightSet[]): PreparedRun {
  const members = chosen.map((m, k) => {
    const { steps: _steps, ...member } = prepared.runMembers[m];
    const steps = later.map(({ from, weights }) => ({ from: parseDate(from!)!, weight: weights[k] }));
    return { ...member, weight: first.weights[k], ...(steps.length === 0 ? {} : { steps }) };
  });
  const run = prepareRun(members, settings, prepared.markets);
  if (run.value === null) throw new Error(run.problems.map((p) => p.message).join("; "));
  return run.value;
}

/** The account with all its members as they are weighted. */
export function wholeRun({ prepared, settings }: Account): PreparedRun {
  const run = prepareRun(prepared.runMembers, settings, prepared.markets);
  if (run.value === null) throw new Error(run.problems.map((p) => p.message).join("; "));
  return run.value;
}

/** Weights of all members but one: what it had goes to the others in proportion, in equal parts where they had nothing. */
export function withoutOne(weights: readonly number[], m: number): number[] {
  const rest = weights.filter((_, k) => k !== m);
  const total = rest.reduce((sum, w) => sum + w, 0);
  return rest.map((w) => (total > 0 ? w / total : 1 / rest.length));
}

/** Weights with one member more, who gets an equal part; the others give in proportion. The new one is the last. */
export const withOneMore = (weights: readonly number[]): number[] => {
  const part = 1 / (weights.length + 1);
  return [...weights.map((w) => w * (1 - part)), part];
};

/**
 * The account with one member given up on a session date: from the close of that date on it asks for nothing more, and what
 * it holds is closed at the next open. Null for a member whose entry rules rest on its position.
 */
export function givenUp(account: Account, m: number, date: number): Simulation | null {
  const run = wholeRun(account);
  if (entriesRestOnPosition(run.members[m].compiled)) return null;
  const legs = run.members.flatMap((member, k) => member.markets.map((market) => ({ own: k === m, market })));
  const rework = givenUpFrom((leg, rows) => {
    if (!legs[leg].own) return rows;
    const first = run.markets[legs[leg].market].dates.findIndex((one) => one >= date);
    return first < 0 ? rows : first;
  });
  return simulate(run, { members: true, rework });
}
