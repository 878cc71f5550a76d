import type { EventKind, OrderRecord, RunEvent } from "#core/documents";
import type { Leg } from "./leg";

/** Keeps the orders and events of a run, where they are asked for. `time` is the clock time that they happen at. */
export class Recorder {
  readonly orders: OrderRecord[] = [];
  readonly events: RunEvent[] = [];
  time = 0;

  constructor(readonly on: boolean) {}

  /** A new order, as yet without an end. */
  order(
    leg: Leg,
    side: 1 | -1,
    purpose: "entry" | "exit",
    units: number,
    why: string,
    type: OrderRecord["type"],
    price: number | null,
  ): OrderRecord {
    const record: OrderRecord = {
      id: this.orders.length + 1,
      symbol: leg.market.spec.symbol,
      ...(leg.member.name === null ? {} : { member: leg.member.name }),
      side: side === 1 ? "long" : "short",
      purpose,
      type,
      price,
      units,
      placed: this.now(),
      ended: null,
      status: "expired",
      why,
    };
    this.orders.push(record);
    return record;
  }

  /** How an order ended, and why. */
  end(order: OrderRecord, status: OrderRecord["status"], why: string): void {
    order.status = status;
    order.ended = this.now();
    if (why !== "") order.why = why;
  }

  /** Something that happened to a market, for the run's list. */
  event(leg: Leg, kind: EventKind, detail: string): void {
    if (this.on) this.events.push({ time: this.now(), symbol: leg.market.spec.symbol, kind, detail });
  }

  private now(): string {
    return new Date(this.time).toISOString();
  }
}
