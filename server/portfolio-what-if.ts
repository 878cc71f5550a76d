import { firstAtOrAfter, formatDate } from "#core/bars";
import { simulate, type Simulation } from "#core/engine";
import { wholeMetrics } from "#core/metrics";
import {
  addedReturns,
  drawDays,
  drawnAccount,
  givenUp,
  periodChanges,
  sizeFor,
  stretchRow,
  wholeRun,
  type Account,
  type DrawnAccount,
  type StretchRow,
} from "#core/portfolio";
import { fallsOf } from "#core/reading";
import { timesCosts } from "#core/settings";
import { lineOf, type SentLine } from "./lines";
import { Refused } from "./problem";
import type { PortfolioPage } from "./portfolio-report";

/** What a trader asks "what if" of: numbers as the address has them. */
export interface WhatIf {
  capital: number;
  leverage: number;
  /** so many times the costs */
  costs: number;
  /** % that 95 of 100 draws must not pass */
  drawdown: number;
}

export interface FailedMember {
  name: string;
  /** the lowest point of its own profit on this account, when it is given up */
  date: string;
  row: StretchRow | null;
  /** % of the account that its deepest fall alone would take away once more, beginning with the account's own deepest fall */
  deepestTogether: number;
}

export interface WhatIfView {
  asked: WhatIf;
  now: StretchRow;
  then: StretchRow;
  thenNet: number | null;
  largest: number | null;
  lines: SentLine[];
  failed: FailedMember[];
  draws: { joint: DrawnAccount; apart: DrawnAccount; size: number; atSize: DrawnAccount } | null;
}

const MOST_DRAWS = 1000;

/** The numbers that an address asks for; what is left out is as the portfolio has it. Refused where one is no such number. */
export function whatIfOf(params: URLSearchParams, page: PortfolioPage): WhatIf {
  const { settings } = page.document;
  const problems: { path: string; message: string }[] = [];
  const read = (key: string, standard: number, above: number): number => {
    const text = params.get(key);
    if (text === null || text.trim() === "") return standard;
    const value = Number(text.replace(/[\s,]/g, ""));
    if (Number.isFinite(value) && value > above) return value;
    problems.push({ path: key, message: `${key} must be a number above ${above}; “${text}” is not` });
    return standard;
  };
  const asked = {
    capital: read("capital", settings.capital, 0),
    leverage: read("leverage", settings.leverage, 0),
    costs: read("costs", 1, -1e-9),
    drawdown: read("drawdown", 20, 0),
  };
  if (problems.length > 0) throw new Refused(problems);
  return asked;
}

/** The account under other numbers, with a member that fails, and with its days drawn anew. */
export function whatIfView(page: PortfolioPage, asked: WhatIf): WhatIfView {
  const { document, computed } = page;
  const { account, simulation } = computed;
  const settings = {
    ...document.settings,
    capital: asked.capital,
    leverage: asked.leverage,
    costs: timesCosts(document.settings.costs, asked.costs),
  };
  // none of these changes what the rules say, so the members' columns are used again
  const same = asked.capital === document.settings.capital && asked.leverage === document.settings.leverage && asked.costs === 1;
  const other = same ? simulation : simulate(wholeRun({ ...account, settings }), { members: true });
  const figures = wholeMetrics(other);
  const times = simulation.run.clock.times;
  const grown = (one: Simulation, capital: number) => Float64Array.from(one.equity, (x) => (100 * x) / capital);
  return {
    asked,
    now: stretchRow(simulation),
    then: stretchRow(other),
    thenNet: figures.netProfit,
    largest: other.concentration === null ? null : other.concentration.reduce((most, x) => (x > most ? x : most), 0),
    lines: [
      lineOf("as it is", times, grown(simulation, document.settings.capital)),
      ...(same ? [] : [lineOf("what if", times, grown(other, asked.capital))]),
    ],
    failed: document.members.map((member, m) => failing(account, simulation, member.name, m)),
    draws: drawn(simulation, asked.drawdown),
  };
}

/** A member that fails at its worst: given up at its lowest point, and its deepest fall once more on top of the account's. */
function failing(account: Account, simulation: Simulation, name: string, m: number): FailedMember {
  const { times, dates } = simulation.run.clock;
  const { capital } = simulation.run.account;
  const own = simulation.memberProfit![m].map((profit) => capital + profit);
  const deepest = fallsOf(times, own, capital).sort((a, b) => b.money - a.money)[0];
  const whole = fallsOf(times, simulation.equity, capital).sort((a, b) => b.percent - a.percent)[0];
  const low = deepest === undefined ? times.length - 1 : firstAtOrAfter(times, deepest.low);
  const left = deepest === undefined ? null : givenUp(account, m, dates[low]);
  // its fall in shares of the equity that the account had when it began
  const start = deepest === undefined ? 0 : firstAtOrAfter(times, deepest.start);
  const share = deepest === undefined ? 0 : (100 * deepest.money) / simulation.equity[start];
  return {
    name,
    date: formatDate(dates[low]),
    row: left === null ? null : stretchRow(left),
    deepestTogether: share + (whole?.percent ?? 0),
  };
}

function drawn(simulation: Simulation, drawdown: number): WhatIfView["draws"] {
  const added = addedReturns(periodChanges(simulation, "day"));
  if (added === null) return null;
  const joint = drawDays(added, 1, MOST_DRAWS);
  const apart = drawDays(added, 1, MOST_DRAWS, true);
  if (joint === null || apart === null) return null;
  const size = sizeFor(joint, drawdown);
  return { joint: drawnAccount(joint), apart: drawnAccount(apart), size, atSize: drawnAccount(joint, size) };
}
