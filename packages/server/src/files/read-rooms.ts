/** Memory that is kept for the next. */
const MOST_ROOMS = 8;

/** Memory that files are read into on their way out, used again: megabytes that come and go with every answer keep the collector busy. */
export class ReadRooms {
  readonly #free: Uint8Array[] = [];

  /** @returns that many bytes; what is in them is whatever was read before. */
  take(length: number): Uint8Array {
    const at = this.#free.findIndex((room) => room.byteLength >= length);
    const [room] = at < 0 ? [new Uint8Array(length)] : this.#free.splice(at, 1);
    return room.subarray(0, length);
  }

  /** Nobody reads it any more. */
  give(bytes: Uint8Array): void {
    if (this.#free.length < MOST_ROOMS) this.#free.push(new Uint8Array(bytes.buffer));
  }
}
