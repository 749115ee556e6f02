import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["src/api/schema.d.ts"] },
  ...ts.configs.strict,
  hooks.configs.flat["recommended-latest"] ?? hooks.configs["recommended-latest"],
  { rules: { "@typescript-eslint/no-explicit-any": "error", "max-lines": ["error", 350] } },
);
