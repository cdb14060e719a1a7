import { useSearchParams } from "react-router";

/** useAddress is the query of the page's address, and how to change some of it; null removes. */
export function useAddress() {
  const [query, setQuery] = useSearchParams();
  const put = (c: Record<string, string | null>) => {
    // Of the address as it is, not as it was drawn: of two changes between two draws both count.
    const q = new URLSearchParams(location.search);
    for (const [k, v] of Object.entries(c)) {
      if (v === null) q.delete(k);
      else q.set(k, v);
    }
    setQuery(q, { replace: true });
  };
  return [query, put] as const;
}
