import js from '@eslint/js';
import globals from 'globals';

// Scripts of the pages run in a browser, tests and builders in Node; both are plain modules.
export default [
  { ignores: ['node_modules', 'artifacts', 'test-results', 'src/Glenfrost.Web/wwwroot/lib', '**/bin', '**/obj'] },
  js.configs.recommended,
  {
    linterOptions: { reportUnusedDisableDirectives: 'error' },
    rules: {
      'eqeqeq': ['error', 'always', { null: 'ignore' }],
      'no-var': 'error',
      'prefer-const': 'error',
      'no-implicit-globals': 'error',
      'max-len': ['error', { code: 160, ignoreTemplateLiterals: true, ignoreStrings: true, ignoreRegExpLiterals: true }],
    },
  },
  { files: ['src/**/wwwroot/js/**'], languageOptions: { globals: { ...globals.browser, htmx: 'readonly' } } },
  { files: ['**/*.mjs'], languageOptions: { globals: { ...globals.node, ...globals.browser } } },
];
