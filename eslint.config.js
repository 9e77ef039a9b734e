import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['dist', 'build', 'demo', 'node_modules'] },
  ...tseslint.configs.strict,
  {
    files: ['**/*.ts'],
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-extraneous-class': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
      'max-depth': ['error', 4],
    },
  },
  { files: ['tools/**', 'bench/**'], rules: { 'no-console': 'off' } },
);
