/**
 * secondsUntil reads when something is to be done: a time of the day, as 18:00, or how long it may take, as 45 min,
 * 2 h or 90 s; a number alone is minutes. Undefined for what is neither.
 */
export function secondsUntil(said: string, now: Date): number | undefined {
  const words = said.trim().toLowerCase();
  const clock = /^(\d{1,2})[:.](\d{2})$/.exec(words);
  if (clock) {
    const [hour, minute] = [Number(clock[1]), Number(clock[2])];
    if (hour > 23 || minute > 59) return undefined;
    const at = new Date(now);
    at.setHours(hour, minute, 0, 0);
    if (at <= now) at.setDate(at.getDate() + 1); // tomorrow's
    return (at.getTime() - now.getTime()) / 1000;
  }
  const long = /^(\d+(?:[.,]\d+)?)\s*(s|sec|min|m|h|hours?|d|days?)?$/.exec(words);
  if (!long) return undefined;
  const unit = { s: 1, m: 60, h: 3600, d: 86400 }[(long[2] ?? "m")[0] as "s" | "m" | "h" | "d"];
  const seconds = Number(long[1]!.replace(",", ".")) * unit;
  return seconds > 0 && seconds <= 30 * 86400 ? seconds : undefined;
}
