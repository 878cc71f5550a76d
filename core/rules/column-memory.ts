/** Makes a column of a length; what is in it is left to whoever fills it. */
export type NewColumn = (length: number) => Float64Array;

/** A column of its own. */
export const newColumn: NewColumn = (length) => new Float64Array(length);

/**
 * Memory of columns that nobody looks at any more, for those of the next run or trial: to get a column's memory from the
 * system costs as much as to compute it. Used by one thread.
 */
export class ColumnMemory {
  private readonly free = new Map<number, Float64Array[]>();

  /** A column of a length; its old content is still in it. */
  take(length: number): Float64Array {
    return this.free.get(length)?.pop() ?? new Float64Array(length);
  }

  /** Hands a column over; the caller must not look at it again. */
  give(column: Float64Array): void {
    const list = this.free.get(column.length);
    if (list === undefined) this.free.set(column.length, [column]);
    else list.push(column);
  }
}
