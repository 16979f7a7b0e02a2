import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["web/assets/dist/**", "e2e/site/testdata/**", "node_modules/**", ".tools/**"] },
  js.configs.recommended,
  {
    files: ["web/assets/src/js/**/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: globals.browser },
    rules: {
      eqeqeq: ["error", "always", { null: "ignore" }],
      "no-var": "error",
      "max-lines-per-function": ["error", { max: 60 }],
      "prefer-const": ["error", { destructuring: "all", ignoreReadBeforeAssign: true }],
    },
  },
  { files: ["web/assets/build.mjs"], languageOptions: { globals: globals.node } },
];
