import type { Ticket } from "../api/http";

/** PathOf are the ways into a value: names parted by dots, places in a list in brackets. */
type PathOf<T> = {
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

export function read(ticket: Ticket, path: TicketPath): unknown {
  let v: unknown = ticket;
  for (const k of steps(path)) v = (v as Record<string, unknown> | undefined)?.[k];
  return v;
}

/** write returns the ticket with one value changed; what did not change is shared. */
export function write(ticket: Ticket, path: TicketPath, value: unknown): Ticket {
  const go = (v: unknown, keys: string[]): unknown => {
    const [k, ...rest] = keys;
    if (k === undefined) return value;
    if (Array.isArray(v)) return v.map((x, i) => (String(i) === k ? go(x, rest) : x));
    const o = v as Record<string, unknown>;
    return { ...o, [k]: go(o[k], rest) };
  };
  return go(ticket, steps(path)) as Ticket;
}
