// How our source becomes what browsers run: React's syntax, and texts from the catalogues.
import "./tools/glob.mjs";

import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";

import babel from "@rolldown/plugin-babel";
import react from "@vitejs/plugin-react";
import type { Plugin, PluginOption } from "vite";

const path = (config: string) => fileURLToPath(new URL(config, import.meta.url));

// What scripts read of the design tokens: the values, without comments and fonts.
const tokens: Plugin = {
  name: "tokens",
  enforce: "pre",
  load(id) {
    if (!id.endsWith("/theme/tokens.css?raw")) return null;
    const css = readFileSync(id.replace(/\?raw$/, ""), "utf8");
    const values = css
      .replace(/\/\*.*?\*\//gs, "")
      .replace(/@font-face \{.*?\n\}/gs, "")
      .replace(/^ +/gm, "");
    return `export default ${JSON.stringify(values)};`;
  },
};

/** The plugins that everything of ours goes through. */
export async function source(config = "lingui.config.ts"): Promise<PluginOption[]> {
  const configPath = path(config);
  // Its own way of reading source needs a newer Node than Debian's; Babel does the same.
  process.env.LINGUI_SUPPRESS_BABEL_WARNING = "1";
  const { lingui, linguiTransformerBabelPreset } = await import("@lingui/vite-plugin");
  return [
    tokens,
    react(),
    lingui({ configPath, failOnMissing: true, failOnCompileError: true }),
    babel({ presets: [linguiTransformerBabelPreset({}, { configPath })] }),
  ];
}

/** Names what is built: texts by their part and language, so that they can be weighed. */
export const named =
  (folder: string) =>
  ({ facadeModuleId }: { facadeModuleId?: string | null }): string => {
    const texts = /locales\/(\w+)\/([\w-]+)\.po/.exec(facadeModuleId ?? "");
    return texts ? `${folder}/words-${texts[1]}-${texts[2]}-[hash].js` : `${folder}/[name]-[hash].js`;
  };

/** What stands in the source under names of its own. */
export const alias = { "@stoop/trans": fileURLToPath(new URL("console/words/trans.tsx", import.meta.url)) };
