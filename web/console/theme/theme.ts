import { createTheme, type Theme } from "@mui/material/styles";

import { tokens, type Mode } from "./tokens";

/** Returns MUI's theme for a mode, made from the design tokens. */
export function themeFor(mode: Mode): Theme {
  const all = tokens[mode];
  const t = (name: string): string => {
    const value = all[name];
    if (value === undefined) throw new Error(`tokens.css has no --${name}`);
    return value;
  };
  return createTheme({
    direction: document.documentElement.dir === "rtl" ? "rtl" : "ltr",
    palette: {
      mode,
      primary: { main: t("brick-fill"), dark: t("brick-strong"), contrastText: t("on-brick") },
      error: { main: t("late") },
      warning: { main: t("amber") },
      success: { main: t("moss") },
      info: { main: t("slate") },
      background: { default: t("paper"), paper: t("panel") },
      text: { primary: t("ink"), secondary: t("ink-2"), disabled: t("ink-3") },
      divider: t("line"),
    },
    shape: { borderRadius: 6 },
    spacing: 4,
    typography: {
      fontFamily: t("font-ui"),
      fontSize: 14,
      button: { textTransform: "none", fontWeight: 560, fontSize: 13.5, lineHeight: 1.35 },
      h1: { fontFamily: t("font-brand"), fontSize: t("fs-title"), fontWeight: 600 },
      body1: { fontSize: 14 },
      body2: { fontSize: 12.5 },
    },
    transitions: {
      duration: {
        shortest: 90,
        shorter: 110,
        short: 130,
        standard: 140,
        complex: 150,
        enteringScreen: 120,
        leavingScreen: 100,
      },
    },
    components: {
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: {
        defaultProps: { disableElevation: true, size: "small" },
        styleOverrides: {
          root: {
            minHeight: 32,
            minWidth: 0,
            padding: "4px 12px",
            whiteSpace: "nowrap",
            flexShrink: 0,
            "&:focus-visible": { outline: `2px solid ${t("focus")}`, outlineOffset: 1 },
          },
          outlined: {
            color: t("ink"),
            borderColor: t("field"),
            backgroundColor: t("panel"),
            "&:hover": { backgroundColor: t("paper-2") },
          },
          text: {
            color: t("ink-2"),
            padding: "4px 8px",
            "&:hover": { backgroundColor: t("paper-2"), color: t("ink") },
          },
        },
      },
      MuiIconButton: {
        styleOverrides: {
          root: {
            borderRadius: 6,
            padding: 6,
            color: t("ink-2"),
            "&:focus-visible": { outline: `2px solid ${t("focus")}`, outlineOffset: 1 },
            "&:hover": { backgroundColor: t("paper-2"), color: t("ink") },
          },
        },
      },
      MuiOutlinedInput: {
        styleOverrides: {
          notchedOutline: { borderColor: t("field") },
          root: { backgroundColor: t("panel") },
        },
      },
      MuiFormLabel: { styleOverrides: { root: { "&.Mui-focused": { color: t("brick") } } } },
      MuiTooltip: {
        defaultProps: { enterDelay: 400, arrow: false },
        styleOverrides: {
          tooltip: { backgroundColor: t("plate"), color: t("on-plate"), fontSize: 12.5, borderRadius: 3 },
        },
      },
      MuiMenu: {
        styleOverrides: { paper: { boxShadow: t("shadow-pop"), border: `1px solid ${t("line")}` } },
      },
      MuiMenuItem: { styleOverrides: { root: { fontSize: 13.5, minHeight: 34 } } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: "none" } } },
    },
  });
}
