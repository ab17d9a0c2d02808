import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["node_modules/", ".venv/", ".moth/", "velvet_moth/web/static/vendor/", "velvet_moth/web/static/build/"] },
  js.configs.recommended,
  {
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: globals.browser },
    rules: { eqeqeq: "error", "no-var": "error", "prefer-const": "error", "no-eval": "error", "no-implied-eval": "error" },
  },
  { files: ["tests/support/*.js"], languageOptions: { globals: globals.node } },
];
