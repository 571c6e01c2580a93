import { ThemeProvider } from "@mui/material/styles";
import {
  createContext,
  use,
  useEffect,
  useMemo,
  useState,
  useSyncExternalStore,
  type ReactNode,
} from "react";

import { keep, kept } from "../../shared/storage";
import { themeFor } from "./theme";

/** What an operator chose: a mode, or that of their system. */
export type Choice = "light" | "dark" | "system";

const ChoiceContext = createContext<{ choice: Choice; choose: (c: Choice) => void }>({
  choice: "system",
  choose: () => undefined,
});

const keptAs = "stoop.mode";
const darkSystem = "(prefers-color-scheme: dark)";

/** Gives the console its theme, light or dark. */
export function ModeProvider({ children }: { children: ReactNode }) {
  const [choice, setChoice] = useState<Choice>(() => (kept(keptAs) as Choice | null) ?? "system");
  const systemDark = useSystemDark();
  const mode = choice === "system" ? (systemDark ? "dark" : "light") : choice;
  const theme = useMemo(() => themeFor(mode), [mode]);
  useEffect(() => {
    document.documentElement.dataset.theme = mode;
  }, [mode]);
  const value = useMemo(
    () => ({
      choice,
      choose: (c: Choice) => {
        keep(keptAs, c);
        setChoice(c);
      },
    }),
    [choice],
  );
  return (
    <ChoiceContext value={value}>
      <ThemeProvider theme={theme}>{children}</ThemeProvider>
    </ChoiceContext>
  );
}

/** Returns the chosen mode and how to choose another. */
export function useMode() {
  return use(ChoiceContext);
}

/** Reports whether the system is dark, also when it changes. */
function useSystemDark(): boolean {
  return useSyncExternalStore(
    (listener) => {
      const query = matchMedia(darkSystem);
      query.addEventListener("change", listener);
      return () => query.removeEventListener("change", listener);
    },
    () => matchMedia(darkSystem).matches,
  );
}
