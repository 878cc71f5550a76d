/** Writes numbers into a growing block of bytes: small whole numbers take one byte, larger ones more. Little endian. */
export class ByteWriter {
  private block: Uint8Array;
  private view: DataView;
  private at = 0;

  constructor(capacity: number) {
    this.block = new Uint8Array(Math.max(64, capacity));
    this.view = new DataView(this.block.buffer);
  }

  private room(bytes: number): void {
    if (this.at + bytes <= this.block.length) return;
    const larger = new Uint8Array(Math.max(this.block.length * 2, this.at + bytes));
    larger.set(this.block);
    this.block = larger;
    this.view = new DataView(larger.buffer);
  }

  byte(x: number): void {
    this.room(1);
    this.block[this.at++] = x;
  }

  u32(x: number): void {
    this.room(4);
    this.view.setUint32(this.at, x, true);
    this.at += 4;
  }

  f64(x: number): void {
    this.room(8);
    this.view.setFloat64(this.at, x, true);
    this.at += 8;
  }

  bytes(x: Uint8Array): void {
    this.room(x.length);
    this.block.set(x, this.at);
    this.at += x.length;
  }

  /** A whole number of up to 52 bits with its sign: seven bits a byte, the sign in the lowest. */
  signed(x: number): void {
    this.room(8);
    let rest = x < 0 ? -2 * x - 1 : 2 * x;
    if (rest < 128) {
      this.block[this.at++] = rest;
      return;
    }
    while (rest >= 128) {
      this.block[this.at++] = (rest % 128) + 128;
      rest = Math.floor(rest / 128);
    }
    this.block[this.at++] = rest;
  }

  done(): Uint8Array {
    return this.block.subarray(0, this.at);
  }
}

/** Reads what a ByteWriter wrote, in the same order; throws where the bytes end too early or too late. */
export class ByteReader {
  private readonly view: DataView;
  private at = 0;

  constructor(private readonly block: Uint8Array) {
    this.view = new DataView(block.buffer, block.byteOffset, block.byteLength);
  }

  byte(): number {
    if (this.at >= this.block.length) throw new Error("the columns of bars are cut short");
    return this.block[this.at++];
  }

  u32(): number {
    this.at += 4;
    return this.view.getUint32(this.at - 4, true);
  }

  f64(): number {
    this.at += 8;
    return this.view.getFloat64(this.at - 8, true);
  }

  floats(into: Float64Array): void {
    if (this.at + into.byteLength > this.block.length) throw new Error("the columns of bars are cut short");
    new Uint8Array(into.buffer, into.byteOffset, into.byteLength).set(this.block.subarray(this.at, this.at + into.byteLength));
    this.at += into.byteLength;
  }

  /** As many whole numbers as the column has rows. */
  signed(into: Float64Array): void {
    const { block } = this;
    let { at } = this;
    for (let i = 0; i < into.length; i++) {
      let byte = block[at++];
      if (byte < 128) {
        into[i] = byte & 1 ? -((byte + 1) >> 1) : byte >> 1;
        continue;
      }
      let x = byte & 127;
      let scale = 128;
      do {
        byte = block[at++];
        x += (byte & 127) * scale;
        scale *= 128;
      } while (byte >= 128);
      into[i] = x % 2 === 1 ? -(x + 1) / 2 : x / 2;
    }
    // beyond the end bytes are undefined and count as 0: told here, once for all rows
    if (at > block.length) throw new Error("the columns of bars are cut short");
    this.at = at;
  }

  end(): void {
    if (this.at !== this.block.length) throw new Error("the columns of bars are cut short, or something follows them");
  }
}
