import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import typescript from "typescript-eslint";

export default typescript.config(
  { ignores: ["dist", "node_modules", "shared/api.gen.ts", "tools"] },
  js.configs.recommended,
  ...typescript.configs.strict,
  hooks.configs.flat["recommended-latest"],
  {
    // Screens are built from the kit alone, which is built from MUI.
    files: ["console/**"],
    ignores: ["console/kit/**", "console/theme/**"],
    rules: {
      "no-restricted-imports": ["error", { patterns: ["@mui/*", "notistack", "@tanstack/react-virtual"] }],
    },
  },
);
