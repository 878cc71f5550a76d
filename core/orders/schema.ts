import { exact, formatKey, list, number, oneOf, text, truth, whole } from "#core/documents";

const side = () => oneOf(["long", "short"] as const).required();
const order = () =>
  exact(
    {
      symbol: text().required(),
      member: text(),
      purpose: oneOf(["enter", "leave"] as const).required(),
      side: side(),
      type: oneOf(["market", "stop", "limit"] as const).required(),
      price: number(),
      units: number().required(),
      closes: number().required(),
      stop: number(),
      target: number(),
      about: truth().required(),
      formed: text().required(),
      barsLeft: whole(),
      rule: text().required(),
      values: list(exact({ text: text().required(), value: number() }, "a value")).required(),
    },
    "an order",
  );
const position = () =>
  exact(
    {
      symbol: text().required(),
      member: text(),
      trade: whole().required(),
      side: side(),
      units: number().required(),
      entered: text().required(),
      entryPrice: number().required(),
      close: number().required(),
      stop: number(),
      stopKind: oneOf(["stop", "breakeven", "trail"] as const),
      target: number(),
      profit: number().required(),
      r: number(),
      barsHeld: whole().required(),
      leavesAfterBars: whole(),
      leavesAt: text(),
      leavesOnWeekday: exact({ weekday: whole().required(), time: text().required() }, "a weekday exit").default(undefined),
    },
    "a position",
  );
/** A trade as in `canyon.result/1`. */
const trade = () =>
  exact(
    {
      id: whole().required(),
      symbol: text().required(),
      member: text(),
      side: side(),
      units: number().required(),
      entryTime: text().required(),
      entryPrice: number().required(),
      entryReason: text().required(),
      exitTime: text(),
      exitPrice: number(),
      exitReason: text(),
      bars: whole().required(),
      gross: number().required(),
      costs: number().required(),
      net: number().required(),
      percent: number(),
      r: number(),
      mae: number().required(),
      mfe: number().required(),
      open: truth().required(),
    },
    "a trade",
  );

/** The shape of `canyon.orders/1`; a test holds every sheet of the engine against it. */
export const ordersSchema = exact(
  {
    format: formatKey("canyon.orders/1"),
    engine: text().required(),
    sheets: list(
      exact(
        {
          name: text().required(),
          fingerprint: text().required(),
          date: text().required(),
          equity: number().required(),
          halted: truth().required(),
          markets: list(
            exact({ symbol: text().required(), last: text().required(), close: number().required(), next: text().required() }, "a market"),
          ).required(),
          orders: list(order()).required(),
          positions: list(position()).required(),
          changes: exact(
            {
              since: text().required(),
              newOrders: list(order()).required(),
              goneOrders: list(order()).required(),
              opened: list(trade()).required(),
              closed: list(trade()).required(),
              moved: list(
                exact(
                  { position: position().required(), level: oneOf(["stop", "target"] as const).required(), before: number() },
                  "a move",
                ),
              ).required(),
            },
            "changes",
          ).default(undefined),
        },
        "a sheet",
      ),
    ).required(),
  },
  "an order sheet",
);
