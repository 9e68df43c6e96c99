import js from '@eslint/js';
import a11y from 'eslint-plugin-jsx-a11y';
import hooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  a11y.flatConfigs.recommended,
  hooks.configs.flat['recommended-latest'],
  // What opens for one answer takes the focus: a search, a name, a number in a sentence.
  { rules: { 'jsx-a11y/no-autofocus': 'off' } },
  { languageOptions: { globals: globals.browser } },
);
