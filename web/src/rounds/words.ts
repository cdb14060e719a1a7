import type { Round } from "../api/rounds";

export const kindWords: Record<Round["kind"], string> = {
  clay: "Clay",
  light: "Light",
  finish: "Finish",
  final: "Final",
  other: "Other",
};

/** dayWords say a day as people do: 12 March. */
export const dayWords = (day: string) =>
  new Date(`${day}T12:00`).toLocaleDateString(undefined, { day: "numeric", month: "long" });

/** sinceWords say how long something waits. */
export function sinceWords(at: string, now = Date.now()): string {
  const minutes = Math.max(0, Math.round((now - new Date(at).getTime()) / 60000));
  if (minutes < 60) return minutes < 2 ? "since just now" : `for ${minutes} min`;
  if (minutes < 60 * 36) return `for ${Math.round(minutes / 60)} h`;
  return `for ${Math.round(minutes / 60 / 24)} days`;
}

/** waitingFor says who has yet to answer in a round, and since when; nothing where nobody has to. */
export function waitingFor(r: Round, me: number | undefined): string {
  const waits = r.asked.filter((a) => a.waits > 0);
  if (waits.length === 0) return "";
  const first = waits.map((a) => a.since!).sort()[0]!;
  const names = waits.map((a) => (a.id === me ? "you" : a.name));
  return `waits for ${names.join(", ")}, ${sinceWords(first)}`;
}
