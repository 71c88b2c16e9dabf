/** What a part of the bench has measured, as it is printed and written down. */
export interface Table {
  /** The part that measures it, as it is asked for. */
  part: string;
  title: string;
  columns: readonly string[];
  rows: string[][];
}

/** A table that fills: each row is printed as it comes. */
export function beginTable(part: string, title: string, columns: readonly string[]): Table {
  console.log(`\n${title}\n${line(columns, columns)}`);
  return { part, title, columns, rows: [] };
}

export function addRow(table: Table, ...cells: (string | number)[]): void {
  const row = cells.map(String);
  table.rows.push(row);
  console.log(line(table.columns, row));
}

/** Columns as wide as their heads, and the first wide enough for most names. */
const line = (columns: readonly string[], cells: readonly string[]): string =>
  cells
    .map((cell, i) => cell.padEnd(Math.max(columns[i].length, i ? 10 : 40)))
    .join('  ')
    .trimEnd();

/** A section of a Markdown document. */
export function sectionOf({ part, title, columns, rows }: Table): string {
  const row = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`;
  const lines = [row(columns), row(columns.map(() => '---')), ...rows.map(row)];
  return `## ${title}\n\n\`npm run bench -- ${part}\`\n\n${lines.join('\n')}\n`;
}

/** The document with these sections renewed where they were, or put at its end. */
export function renew(document: string, tables: readonly Table[]): string {
  const sections = document.split(/^(?=## )/m).map((section) => `${section.trimEnd()}\n`);
  for (const table of tables) {
    const at = sections.findIndex((section) => section.startsWith(`## ${table.title}\n`));
    const section = sectionOf(table);
    if (at < 0) sections.push(section);
    else sections[at] = section;
  }
  return sections.join('\n');
}
