import { createContext, useContext } from "react";
import de from "./messages/de.json";
import en from "./messages/en.json";

export type Key = keyof typeof en;

const languages: Record<string, Record<Key, string>> = { en, de };

/** How the page is spoken: its language, and how to change it. */
export const Language = createContext({ tag: "en", set: (() => undefined) as (tag: string) => void });

/** firstLanguage is that of the browser, if we have it. */
export const firstLanguage = () => (navigator.language.startsWith("de") ? "de" : "en");

/** useWords says messages in the language of the page, with what stands in braces filled in. */
export function useWords() {
  const { tag } = useContext(Language);
  return (key: Key, fill: Record<string, string | number> = {}) =>
    languages[tag]![key].replace(/\{(\w+)\}/g, (_, name: string) => String(fill[name]));
}
