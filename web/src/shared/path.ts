import type { Ticket } from "../api/http";

/** PathOf are the ways into a value: names parted by dots, places in a list in brackets. */
export type PathOf<T> = {
  [K in keyof T & string]: T[K] extends (infer E)[]
    ? E extends object
      ? K | `${K}[${number}]` | `${K}[${number}].${PathOf<E>}`
      : K
    : T[K] extends object
      ? K | `${K}.${PathOf<T[K]>}`
      : K;
}[keyof T & string];

/** A setting of the ticket, or a group of them. The compiler knows them all. */
export type TicketPath = PathOf<Ticket>;

const steps = (path: string) => path.replace(/\[(\d+)\]/g, ".$1").split(".");

export function read<T>(doc: T, path: PathOf<T>): unknown {
  let v: unknown = doc;
  for (const k of steps(path)) v = (v as Record<string, unknown> | undefined)?.[k];
  return v;
}

/** write returns the document with one value changed; what did not change is shared. */
export function write<T>(doc: T, path: PathOf<T>, value: unknown): T {
  const go = (v: unknown, keys: string[]): unknown => {
    const [k, ...rest] = keys;
    if (k === undefined) return value;
    if (Array.isArray(v)) return v.map((x, i) => (String(i) === k ? go(x, rest) : x));
    const o = v as Record<string, unknown>;
    return { ...o, [k]: go(o[k], rest) };
  };
  return go(doc, steps(path)) as T;
}
