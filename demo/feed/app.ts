import express, { type Express } from "express";
import { Random } from "#core/random";
import { Book, FEED_START } from "./book";
import { FeedClock } from "./clock";

/** How the service misbehaves: probabilities from 0 to 1, a delay in milliseconds, all 0 for a good day. */
export interface Manners {
  /** the newest bars are held back */
  late: number;
  /** a bar is left out */
  missing: number;
  /** a bar comes twice */
  duplicate: number;
  /** a recent bar's close has changed by a tick or so */
  revised: number;
  /** milliseconds before an answer */
  slow: number;
  /** the connection ends in the middle of an answer */
  drop: number;
  /** the answer is an error */
  error: number;
}

export const GOOD_MANNERS: Manners = { late: 0, missing: 0, duplicate: 0, revised: 0, slow: 0, drop: 0, error: 0 };

/** Answers that one page of bars holds at most. */
const PAGE = 5000;

/** The simulated data service: Saltmarch history, then new bars as its clock goes on. It can be told to misbehave. */
export function createFeed(clock = new FeedClock(FEED_START, 1), seed = 1): { app: Express; clock: FeedClock; manners: Manners } {
  const app = express();
  app.disable("x-powered-by");
  app.use(express.json());
  const book = new Book();
  const random = new Random(seed);
  const manners: Manners = { ...GOOD_MANNERS };
  const state = () => ({ now: clock.now(), speed: clock.speed, manners });

  app.get("/", (_request, response) => void response.json(state()));
  app.post("/control", (request, response) => {
    const given = (request.body ?? {}) as { speed?: unknown; forwardHours?: unknown; manners?: Record<string, unknown> };
    const number = (x: unknown, least: number, most: number): number | null =>
      typeof x === "number" && Number.isFinite(x) && x >= least && x <= most ? x : null;
    const wrong: string[] = [];
    const speed = given.speed === undefined ? null : number(given.speed, 0, 1e6);
    if (given.speed !== undefined && speed === null) wrong.push("speed must be 0 to 1,000,000");
    const hours = given.forwardHours === undefined ? null : number(given.forwardHours, 0, 24 * 700);
    if (given.forwardHours !== undefined && hours === null) wrong.push("forwardHours must be 0 to 16,800");
    const next = { ...manners };
    for (const [key, value] of Object.entries(given.manners ?? {})) {
      const read = number(value, 0, key === "slow" ? 60_000 : 1);
      if (!(key in GOOD_MANNERS) || read === null)
        wrong.push(`${key} is no way to misbehave, or not from 0 to ${key === "slow" ? "60,000" : "1"}`);
      else next[key as keyof Manners] = read;
    }
    if (wrong.length > 0) return void response.status(400).json({ problems: wrong });
    Object.assign(manners, next);
    if (speed !== null) clock.run(speed);
    if (hours !== null) clock.forward(hours * 3_600_000);
    response.json(state());
  });
  app.get("/series", (_request, response) => void response.json({ now: clock.now(), series: book.series() }));
  app.get("/bars", async (request, response) => {
    const { source, symbol, timeframe, from } = request.query as Record<string, string>;
    if (manners.slow > 0) await new Promise((resolve) => setTimeout(resolve, manners.slow));
    if (random.uniform() < manners.error) return void response.status(503).json({ problem: "the service is busy; ask again later" });
    const time = Number(from ?? 0);
    const found = Number.isFinite(time) ? book.from({ source, symbol, timeframe }, time, clock.now(), PAGE) : null;
    if (found === null) return void response.status(404).json({ problem: `there is no series ${symbol}, ${source}, ${timeframe}` });
    let rows = found.rows;
    if (!found.more && random.uniform() < manners.late) rows = rows.slice(0, Math.max(0, rows.length - 3));
    rows = rows.flatMap((row, i) => {
      if (random.uniform() < manners.missing) return [];
      const revised = i > rows.length - 8 && random.uniform() < manners.revised;
      const given = revised ? [row[0], row[1], Math.max(row[2], row[4] + 0.5), row[3], row[4] + 0.5, row[5]] : row;
      return random.uniform() < manners.duplicate ? [given, given] : [given];
    });
    const body = JSON.stringify({ now: clock.now(), more: found.more, bars: rows });
    if (random.uniform() < manners.drop) {
      response.setHeader("Content-Length", Buffer.byteLength(body));
      response.type("application/json").write(body.slice(0, Math.floor(body.length / 2)));
      return void response.socket?.destroy();
    }
    response.type("application/json").send(body);
  });
  return { app, clock, manners };
}
