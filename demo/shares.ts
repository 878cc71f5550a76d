import { DAY, firstOfMonth, monthOf, type Bars } from "#core/bars";
import { Random } from "#core/random";
import { makeBars } from "./generator";

export interface DemoShare {
  symbol: string;
  name: string;
  sector: string;
}

const SECTORS: Record<string, [symbol: string, name: string][]> = {
  Shipping: [
    ["GANET", "Gannet Lines"],
    ["SHOAL", "Shoalwater Ferries"],
    ["MUDLA", "Mudlark Tugs"],
    ["EELGR", "Eelgrass Freight"],
    ["LPIER", "Longpier Docks"],
    ["EBBMK", "Ebbmark Pilots"],
    ["SHOLM", "Saltholm Barges"],
  ],
  Fishing: [
    ["COCKL", "Cockle Bay Catch"],
    ["HERNG", "Grey Herring Fleet"],
    ["WHELK", "Whelk and Daughters"],
    ["NETLO", "Netloft Gear"],
    ["SMOKH", "Smokehouse Row"],
    ["OYSTB", "Oysterbed Farms"],
    ["LOBPT", "Lobsterpot Works"],
  ],
  Power: [
    ["SLUCE", "Sluicegate Power"],
    ["WINDQ", "Windquay Turbines"],
    ["LAMPL", "Lamplight Grid"],
    ["BOGOK", "Bog Oak Heating"],
    ["TIDML", "Tidemill Turbines"],
    ["BEACN", "Beacon Hill Cables"],
  ],
  Building: [
    ["DYKEW", "Dykeward Stone"],
    ["REEDT", "Reedthatch Roofs"],
    ["CAUSW", "Causeway Bricks"],
    ["PILES", "Pilings and Piers"],
    ["CHALK", "Chalkdown Lime"],
    ["MARLP", "Marlpit Clay"],
  ],
  Trade: [
    ["CHAND", "Chandlery Stores"],
    ["TALLY", "Tallyman Credit"],
    ["WHARF", "Wharfinger Sheds"],
    ["SPICE", "Spicewharf Imports"],
    ["LEDGR", "Ledgerhouse Fees"],
    ["HAGGL", "Haggle Market Halls"],
    ["PEDLR", "Pedlar Post"],
  ],
  Workshops: [
    ["ROPEW", "Ropewalk Cordage"],
    ["ANVIL", "Anvil Lane Forge"],
    ["SAILC", "Sailcloth Mill"],
    ["BELLF", "Bellfoundry Bronze"],
    ["COOPR", "Coopers Yard"],
    ["GLUEP", "Gluepot Joinery"],
    ["KEELS", "Keelson Boats"],
  ],
};

/** The forty shares of the Saltmarch board. */
export const DEMO_SHARES: readonly DemoShare[] = Object.entries(SECTORS).flatMap(([sector, list]) =>
  list.map(([symbol, name]) => ({ symbol, name, sector })),
);

/** A share's order backlog by quarter: known from its publication on, some weeks after the quarter's end. */
export interface Backlog {
  /** publication, 00:00 UTC of its date */
  time: number[];
  value: number[];
}

/** Pull per day on a share's price in the weeks after a backlog that rose, and after one that fell. */
const RISING = 0.0006;
const FALLING = -0.0004;
/** days that a published backlog works on the price */
const WORKS = 80;

export function backlogOf(index: number, dates: readonly number[]): Backlog {
  const random = new Random(4100, index);
  const out: Backlog = { time: [], value: [] };
  let value = 200 + 1800 * random.uniform();
  let growth = 0;
  const last = dates[dates.length - 1];
  for (let month = monthOf(dates[0]) - 3; ; month += 3) {
    growth = 0.45 * growth + 0.07 * random.normal();
    value *= Math.exp(growth);
    const published = firstOfMonth(month - (((month % 3) + 3) % 3)) + 21 + Math.floor(random.uniform() * 14);
    if (published > last) return out;
    out.time.push(published * DAY);
    out.value.push(Math.round(value * 10) / 10);
  }
}

/** Daily bars of a share: the board's move, its sector's, its own, and the backlog's pull. */
export function shareBars(index: number, dates: readonly number[], boardMoves: ReadonlyMap<number, number>): Bars {
  const share = DEMO_SHARES[index];
  const sectors = Object.keys(SECTORS);
  const sectorRandom = new Random(4200, sectors.indexOf(share.sector));
  const sectorMoves = new Map(dates.map((date) => [date, 0.006 * sectorRandom.normal()]));
  const own = new Random(4300, index);
  const beta = 0.5 + 0.6 * own.uniform();
  const backlog = backlogOf(index, dates);
  let at = -1;
  return makeBars(
    {
      seed: 5000 + index,
      start: 20 + 180 * own.uniform(),
      tick: 0.01,
      volatility: 0.009 + 0.008 * own.uniform(),
      tails: 4,
      drift: -0.00012,
      trend: { days: 0, pull: 0 },
      volume: Math.round(20_000 + 200_000 * own.uniform()),
      missing: 0.001,
      influence: (date) => {
        while (at + 1 < backlog.time.length && backlog.time[at + 1] < date * DAY) at++;
        const fresh = at >= 1 && date - backlog.time[at] / DAY <= WORKS;
        const pull = !fresh ? 0 : backlog.value[at] > backlog.value[at - 1] ? RISING : FALLING;
        return { move: beta * (boardMoves.get(date) ?? 0) + sectorMoves.get(date)! + pull, heat: 1 };
      },
    },
    dates,
  );
}
