// Puts every text of the source into the catalogues under locales/, and makes those
// of the made-up languages anew. Run it as `npm run words` after changing a text;
// what is not translated then fails the build.
import "./glob.mjs";

import { fileURLToPath } from "node:url";

const extract = fileURLToPath(new URL("../node_modules/@lingui/cli/dist/lingui-extract.js", import.meta.url));
const { default: command } = await import(extract);
const { getConfig } = await import("@lingui/conf");
const { makeUp } = await import("./made-up.mjs");
const { usualTexts } = await import("./usual-texts.mjs");

for (const configPath of ["lingui.config.ts", "lingui.visitors.ts"]) {
  const config = getConfig({ configPath });
  const done = await command(config, {
    verbose: false,
    clean: true,
    overwrite: false,
    workersOptions: { poolSize: 0 },
  });
  if (!done) process.exit(1);
}
for (const part of ["console", "later", "panel", "parts", "problems"]) await makeUp(`locales/${part}`);
await usualTexts("../core/widget/words/panel.json");
