import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.d.ts", "src/api/spec.d.ts"] },
  js.configs.recommended,
  ...ts.configs.strict,
  a11y.flatConfigs.recommended,
  // What is played is a master as it came: its captions, if any, are listed among its facts.
  { rules: { "jsx-a11y/media-has-caption": "off" } },
  { rules: { "max-len": ["error", { code: 100 }] } },
  { plugins: { "react-hooks": hooks }, rules: { ...hooks.configs.recommended.rules } },
);
