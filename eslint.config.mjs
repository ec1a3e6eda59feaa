import js from '@eslint/js'
import globals from 'globals'
import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'

export default tseslint.config(
  { ignores: ['node_modules', '.nuxt', '.output', 'data', '.data', 'test-results', 'playwright-report'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: tseslint.parser }, globals: globals.browser },
  },
  { files: ['**/*.mjs', '**/*.cjs', '**/*.config.ts'], languageOptions: { globals: globals.node } },
  {
    rules: {
      'no-undef': 'off',
      'no-console': ['error', { allow: ['warn', 'error', 'info'] }],
      eqeqeq: 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true }],
      '@typescript-eslint/consistent-type-imports': 'error',
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-indent': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/attributes-order': 'off',
      'vue/require-default-prop': 'off',
    },
  },
  {
    // What a level's record says is where it begins; what is shown is told by the stage's placed level.
    files: ['app/**/*.ts', 'app/**/*.vue'],
    rules: {
      'no-restricted-syntax': ['error', {
        selector: "MemberExpression[property.name=/^(x|y|depth|scale|panDegrees|tiltDegrees|rollDegrees|opacity|tint)$/][object.type='MemberExpression'][object.property.name='level'][object.object.name!='props']",
        message: 'Read plane, size, opacity and tint of the placed level: its record is not what is seen.',
      }],
    },
  },
  { files: ['scripts/**', 'bench/**', 'e2e/**', 'server/plugins/**'], rules: { 'no-console': 'off' } },
  { files: ['.dependency-cruiser.cjs'], languageOptions: { sourceType: 'commonjs' }, rules: { '@typescript-eslint/no-require-imports': 'off' } },
)
