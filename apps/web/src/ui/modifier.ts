/** What people call the key that tinykeys knows as `$mod`. */
export const modifier = /Mac|iPod|iPhone|iPad/.test(navigator.platform) ? '⌘' : 'Ctrl';
