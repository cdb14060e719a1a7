import type { Saved } from "./editor";
/** Numbers for people, always with their unit. */

export const percent = (share: number) => `${Math.floor(share * 100)} %`;

export function clock(seconds: number): string {
  const s = Math.round(seconds);
  const two = (n: number) => String(n).padStart(2, "0");
  if (s >= 3600) return `${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`;
  return `${Math.floor(s / 60)}:${two(s % 60)}`;
}

/** left is rough on purpose: an estimate has no seconds when it is minutes away. */
export function left(seconds: number): string {
  if (seconds < 10) return "a few seconds";
  if (seconds < 90) return `about ${Math.round(seconds / 5) * 5} s`;
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} min`;
  return `about ${(seconds / 3600).toFixed(1)} h`;
}

/** time is rough on purpose, as left is. */
export function time(seconds: number): string {
  if (seconds < 1) return "under 1 s";
  if (seconds < 90) return `${seconds < 10 ? Math.round(seconds) : Math.round(seconds / 5) * 5} s`;
  if (seconds < 5400 && seconds !== 3600) return `${Math.round(seconds / 60)} min`;
  return `${Number((seconds / 3600).toFixed(1))} h`;
}

/** span is an 80 % bar of a time. */
export function span(low: number, high: number): string {
  const [a, b] = [time(low), time(high)];
  if (a === b) return a;
  const [x, unit] = a.split(" ");
  return a.split(" ").length === 2 && b.endsWith(` ${unit}`) ? `${x} to ${b}` : `${a} to ${b}`;
}

/** clockTime is when something ends, with the day where it is not today. */
export function clockTime(at: Date, now = new Date()): string {
  const hour = at.toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit", hour12: false });
  return at.toDateString() === now.toDateString()
    ? hour
    : `${at.toLocaleDateString(undefined, { weekday: "short", day: "numeric", month: "short" })}, ${hour}`;
}

export function bytes(n: number): string {
  if (n >= 2 ** 30) return `${(n / 2 ** 30).toFixed(1)} GB`;
  if (n >= 2 ** 20) return `${(n / 2 ** 20).toFixed(n < 2 ** 24 ? 1 : 0)} MB`;
  return `${Math.max(1, Math.round(n / 1024))} kB`;
}

/** commonStart is what all of several file names begin with, in whole words; what is left tells them apart. */
export function commonStart(names: string[]): string {
  const [first = "", ...rest] = names;
  if (rest.length === 0) return "";
  let n = 0;
  while (n < first.length && rest.every((r) => r[n] === first[n])) n++;
  return first.slice(0, first.slice(0, n).search(/[^_. -]*$/));
}

/** asSet is a noise with as many digits as a target is set with. */
export const asSet = (n: number) => Number(n.toFixed(n < 1 ? 2 : 1));

export const noise = (n: number | null | undefined) => (n == null ? "noise not known yet" : `noise ${n.toFixed(1)} %`);

export const stateWords: Record<string, string> = {
  queued: "waiting",
  running: "rendering",
  stopping: "stopping",
  delivering: "writing its files",
  stopped: "stopped",
  done: "done",
  kept: "kept before its target",
  failed: "failed",
  cancelled: "cancelled",
  removed: "removed",
};

export const count = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`;

/** castWords say how far clay is from neutral. */
export const castWords = (c: { mean: number; worst: number }) =>
  `cast ${c.mean.toFixed(1)} of 255, ${c.worst.toFixed(0)} at worst`;

/** surfaceWords say what the parts of a picture wear; both: it is two pictures. */
export const surfaceWords: Record<string, string> = { own: "finished", clay: "clay", both: "finished and clay" };

export const savedWords: Record<Saved, string> = {
  saved: "saved",
  saving: "saving",
  faults: "not saved: it has faults",
  "changed elsewhere": "changed elsewhere",
  "not saved": "not saved yet: trying again",
};

/** capital begins words with a capital letter. */
export const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);
