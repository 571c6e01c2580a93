import source from "./tokens.css?raw";

export type Mode = "light" | "dark";

/**
 * The design tokens of both modes, read from tokens.css, which stays their only
 * source: the stylesheet uses them as variables, MUI's theme as values.
 */
export const tokens: Record<Mode, Record<string, string>> = read(source);

function read(css: string): Record<Mode, Record<string, string>> {
  const light = declarations(block(css, ":root"));
  return { light, dark: { ...light, ...declarations(block(css, '[data-theme="dark"]')) } };
}

function block(css: string, selector: string): string {
  const start = css.indexOf("{", css.indexOf(`${selector} {`));
  return css.slice(start + 1, css.indexOf("\n}", start));
}

function declarations(text: string): Record<string, string> {
  const found: Record<string, string> = {};
  for (const [, name, value] of text.matchAll(/--([\w-]+):\s*([^;]+);/g)) {
    if (name && value) found[name] = value.trim();
  }
  return found;
}
