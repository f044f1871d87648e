// Under the name of the database addon on a machine where that has no ready build: libsql, and what it lacks of the same interface.
// Functions of our own cannot be made in it, so what needs them (the triggers of spatial indexes) is not run there.
'use strict';
const { existsSync } = require('node:fs');
const Libsql = require('libsql');

const first = (row) => (row === undefined || row === null ? row : Array.isArray(row) ? row[0] : Object.values(row)[0]);

class Statement {
  constructor(inner) {
    this.inner = inner;
    this.isPlucked = false;
  }
  get reader() {
    return this.inner.reader;
  }
  pluck(on = true) {
    this.isPlucked = on;
    return this;
  }
  raw(on = true) {
    this.inner.raw(on);
    return this;
  }
  safeIntegers(on = true) {
    this.inner.safeIntegers(on);
    return this;
  }
  columns() {
    return this.inner.columns();
  }
  run(...given) {
    return this.inner.run(...given.map(bound));
  }
  get(...given) {
    for (const row of this.iterate(...given)) return row;
    return undefined;
  }
  all(...given) {
    return [...this.iterate(...given)];
  }
  *iterate(...given) {
    for (const row of this.inner.iterate(...given.map(bound))) yield this.isPlucked ? first(row) : row;
  }
}
/** libsql takes booleans and views of memory for nothing. */
const bound = (value) => (value instanceof Uint8Array && !Buffer.isBuffer(value) ? Buffer.from(value) : value);

class Database extends Libsql {
  constructor(path, options = {}) {
    if (options.fileMustExist && !existsSync(path)) {
      throw new Libsql.SqliteError('unable to open database file', 'SQLITE_CANTOPEN', 14);
    }
    super(path, { timeout: options.timeout ?? 5000 });
    this.name = path;
    this.readonly = options.readonly === true;
    if (this.readonly) this.exec('PRAGMA query_only = ON');
  }
  prepare(sql) {
    return new Statement(super.prepare(sql));
  }
  pragma(source, { simple = false } = {}) {
    const statement = this.prepare(`PRAGMA ${source}`);
    return simple ? statement.pluck().get() : statement.all();
  }
  exec(sql) {
    super.exec(sql);
    return this;
  }
  close() {
    if (this.open) super.close();
    return this;
  }
  unsafeMode() {
    return this; // its tables of indexes can be written as they are
  }
  function() {
    return this;
  }
}

module.exports = Database;
module.exports.SqliteError = Libsql.SqliteError;
