import js from '@eslint/js'
import jsxA11y from 'eslint-plugin-jsx-a11y'
import reactHooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

/** Types, hooks and accessibility; formatting is left to the editor. */
export default tseslint.config(
  { ignores: ['src/api/types.gen.ts', 'node_modules'] },
  js.configs.recommended,
  tseslint.configs.recommendedTypeChecked,
  reactHooks.configs.flat.recommended,
  jsxA11y.flatConfigs.recommended,
  {
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      // A group of pictures is moved by the arrow keys.
      'jsx-a11y/no-noninteractive-tabindex': ['error', { tags: [], roles: ['group', 'tabpanel'] }],
    },
    linterOptions: { reportUnusedDisableDirectives: 'error' },
  },
  { files: ['**/*.js'], extends: [tseslint.configs.disableTypeChecked] },
)
