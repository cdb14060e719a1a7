// Faces for names in scripts that ours lack. A browser fetches of each only the pieces that
// a page shows, so that nothing is fetched where there are none.
import "@fontsource/noto-sans/400.css"; // Cyrillic, Greek, Devanagari, Vietnamese, Latin beyond ours
import "@fontsource/noto-sans-arabic/400.css";
import "@fontsource/noto-sans-hebrew/400.css";
import "@fontsource/noto-sans-thai/400.css";
import "@fontsource/noto-sans-jp/400.css";
import "@fontsource/noto-sans-kr/400.css";
import "@fontsource/noto-sans-sc/400.css";
