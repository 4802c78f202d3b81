import js from "@eslint/js";
import importX, { createNodeResolver } from "eslint-plugin-import-x";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** From the ground up: each folder knows those before it, and none that come after. */
const LAYERS = ["api", "ui", "desk", "player", "page", "monitor", "stages", "app"];

const zones = LAYERS.map((layer, index) => ({
  target: `./src/${layer}`,
  from: LAYERS.slice(index + 1).map((above) => `./src/${above}`),
  message: `What is in ${layer}/ stands below this.`,
})).filter(({ from }) => from.length);

export default tseslint.config(
  js.configs.recommended,
  ...tseslint.configs.strict,
  a11y.flatConfigs.recommended,
  {
    plugins: { "react-hooks": hooks, "import-x": importX },
    settings: { "import-x/resolver-next": [createNodeResolver({ extensions: [".ts", ".tsx"] })] },
    rules: {
      ...hooks.configs.recommended.rules,
      "import-x/no-restricted-paths": ["error", { zones }],
      "import-x/no-cycle": "error",
      // A field that opens where one has just clicked takes the focus: nothing else is expected there.
      "jsx-a11y/no-autofocus": "off",
      "jsx-a11y/label-has-associated-control": ["error", { controlComponents: ["Pick", "Tick", "TextField", "NumberField"], depth: 3 }],
      // The page scrolls, and is gone about in by keys.
      "jsx-a11y/no-noninteractive-tabindex": ["error", { roles: ["application", "document", "region", "tabpanel"] }],
    },
  },
  { ignores: ["src/api/schema.d.ts", "dist"] },
);
