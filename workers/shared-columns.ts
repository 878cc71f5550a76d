import type { Column, ColumnStore } from "#core/rules";

/** A column that a thread computed for a job: of which market, under which key. */
export interface ColumnMessage {
  jobId: number;
  market: number;
  key: string;
  column: Column;
}

/** How threads tell each other: what is posted reaches all others; `receive` gives what has come, one by one. */
export interface ColumnChannel {
  post: (message: ColumnMessage) => void;
  receive: () => ColumnMessage | undefined;
}

/** What a thread hands out for one job at most: a thread that is busy elsewhere must not pile up what it never takes. */
export const SHARED_BYTES = 128 * 1024 * 1024;

/**
 * Columns that one thread has computed, for the other threads of the same job. They get a copy in shared memory, so that
 * each thread may use the memory of its own columns again.
 */
export class SharedColumns {
  private jobId = -1;
  private stores: readonly ColumnStore[] = [];

  constructor(
    private readonly channel: ColumnChannel,
    private readonly most = SHARED_BYTES,
  ) {}

  /** From now on the stores are a job's; what other threads computed for it is taken with `take`. */
  join(jobId: number, stores: readonly ColumnStore[]): void {
    this.jobId = jobId;
    this.stores = stores;
    let bytes = 0;
    stores.forEach((store, market) => {
      store.onNew = (key, column) => {
        bytes += column.byteLength;
        if (bytes <= this.most) this.channel.post({ jobId, market, key, column: shared(column) });
      };
    });
  }

  /** Takes what other threads have computed meanwhile; what belongs to other jobs is let go. */
  take(): void {
    for (let message = this.channel.receive(); message !== undefined; message = this.channel.receive())
      if (message.jobId === this.jobId) this.stores[message.market].accept(message.key, message.column);
  }
}

function shared(column: Column): Column {
  const memory = new SharedArrayBuffer(column.byteLength);
  const copy = column instanceof Float64Array ? new Float64Array(memory) : new Uint8Array(memory);
  copy.set(column);
  return copy;
}
