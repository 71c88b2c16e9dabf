/** Whoever reads a file must not come back to it through what it imports, types included. */
export default {
  forbidden: [{ name: 'no-circles', severity: 'error', from: {}, to: { circular: true } }],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(dist|node_modules)/' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.js'], conditionNames: ['import', 'default'] },
  },
};
