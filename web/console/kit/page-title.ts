import { useEffect } from "react";

let page = "";

/** Names the screen in the title of the tab while it is shown. */
export function usePageTitle(name: string): void {
  useEffect(() => {
    page = name;
    document.title = titleOf("");
    return () => {
      if (page === name) page = "";
    };
  }, [name]);
}

/** Returns the title of the tab: what waits, then the screen, then Stoop. */
export function titleOf(news: string): string {
  return [news, page, "Stoop"].filter(Boolean).join(" · ");
}
