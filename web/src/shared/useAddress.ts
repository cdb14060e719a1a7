import { useSearchParams } from "react-router";

/** useAddress is the query of the page's address, and how to change some of it; null removes. */
export function useAddress() {
  const [query, setQuery] = useSearchParams();
  const put = (c: Record<string, string | null>) =>
    setQuery(
      (was) => {
        const q = new URLSearchParams(was);
        for (const [k, v] of Object.entries(c)) {
          if (v === null) q.delete(k);
          else q.set(k, v);
        }
        return q;
      },
      { replace: true },
    );
  return [query, put] as const;
}
