import type { ReactNode } from "react";

/** A column: its head, and what stands in it for a row. */
export interface Column<Row> {
  head: string;
  /** The head is read out and not shown. */
  silent?: boolean;
  className?: string;
  cell: (row: Row) => ReactNode;
}

interface Props<Row> {
  className?: string;
  columns: Column<Row>[];
  rows: Row[];
  keyOf: (row: Row) => string;
  rowClass?: (row: Row) => string;
}

/** A table that is short enough to be read; the first column names the row. */
export function Table<Row>({ className = "", columns, rows, keyOf, rowClass }: Props<Row>) {
  return (
    <table className={className}>
      <thead>
        <tr>
          {columns.map((column) => (
            <th key={column.head} scope="col" className={column.className}>
              {column.silent ? <span className="sr-only">{column.head}</span> : column.head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={keyOf(row)} className={rowClass?.(row)}>
            {columns.map((column, i) =>
              i === 0 ? (
                <th key={column.head} scope="row" className={column.className}>
                  {column.cell(row)}
                </th>
              ) : (
                <td key={column.head} className={column.className}>
                  {column.cell(row)}
                </td>
              ),
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
