import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize'

/**
 * A column, and the type of its values. JSON columns are texts here: their content belongs to core, and is parsed where it is
 * needed. Times are ISO instants in UTC.
 */
export interface Column<Value> {
  readonly type: 'text' | 'integer' | 'real'
  readonly isKey?: boolean
  readonly isNullable?: boolean
  /** Whether the database increments it. */
  readonly isCounted?: boolean
  /** Only a type: no column has it. */
  readonly holds?: Value
}

export const text: Column<string> = { type: 'text' }
export const integer: Column<number> = { type: 'integer' }
export const real: Column<number> = { type: 'real' }
/** A text or a number, as it was written: the column has no type of its own. */
export const scalar: Column<string | number> = { type: 'text' }
/** The number that the database gives each row. */
export const counter: Column<number> = { type: 'integer', isKey: true, isCounted: true }
/** A text out of a few. */
export const oneOf = <Value extends string>(): Column<Value> => ({ type: 'text' })
export const nullable = <Value>(column: Column<Value>): Column<Value | null> => ({ ...column, isNullable: true })
/** A part of the primary key. */
export const key = <Value>(column: Column<Value>): Column<Value> => ({ ...column, isKey: true })

export type Columns = Readonly<Record<string, Column<unknown>>>

/** A table: its Sequelize model and the type of its rows are made from this. Keys and indexes are in the migrations. */
export interface Table<Of extends Columns> {
  readonly name: string
  readonly columns: Of
}

export const table = <Of extends Columns>(name: string, columns: Of): Table<Of> => ({ name, columns })

type ValueOf<Of> = Of extends Column<infer Value> ? Value : never
/** A row of a table, as it is read and written. */
export type RowOf<Of> =
  Of extends Table<infer Those> ? { -readonly [Name in keyof Those]: ValueOf<Those[Name]> } : never

export type SequelizeTable<Row extends object> = ModelStatic<Model<Row, Partial<Row>>>

const dataTypes = { text: DataTypes.TEXT, integer: DataTypes.INTEGER, real: DataTypes.REAL }

/** A table on one connection. */
export const defineOn = <Of extends Columns>(
  sequelize: Sequelize,
  { name, columns }: Table<Of>,
): SequelizeTable<RowOf<Table<Of>>> =>
  sequelize.define(
    name,
    Object.fromEntries(
      Object.entries(columns).map(([column, { type, isKey, isCounted }]) => [
        column,
        { type: dataTypes[type], primaryKey: isKey ?? false, autoIncrement: isCounted ?? false },
      ]),
    ),
    { tableName: name, timestamps: false, freezeTableName: true },
  )
