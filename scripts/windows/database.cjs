// Under the name of the database addon on a machine where that has no ready build: libsql, and what it lacks of the same interface.
// Functions of our own cannot be made in it, so what needs them (the triggers of spatial indexes) is not run there.
'use strict';
const { existsSync } = require('node:fs');
const v8 = require('node:v8');
const vm = require('node:vm');
const { isMainThread } = require('node:worker_threads');
const Libsql = require('libsql');

const first = (row) => (row === undefined || row === null ? row : Array.isArray(row) ? row[0] : Object.values(row)[0]);

v8.setFlagsFromString('--expose-gc');
const collect = vm.runInNewContext('gc');
/** Twice, since what a statement holds goes one round after it. */
let rounds = 0;
function collectSoon() {
  if (rounds === 0) setTimeout(collectAgain, 300).unref();
  rounds = 2;
}
function collectAgain() {
  collect();
  if (--rounds > 0) setTimeout(collectAgain, 100).unref();
}

// Under Wine what libsql still holds sometimes breaks the process while Node clears itself away: with all said and done, it ends before.
if (isMainThread) {
  const { emit } = process;
  process.emit = function (event, ...more) {
    const heard = emit.call(this, event, ...more);
    if (event === 'exit') process.reallyExit(process.exitCode ?? more[0]);
    return heard;
  };
}

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
    for (const row of this.inner.iterate(...given.map(bound))) {
      for (const key of Object.keys(row)) if (row[key] instanceof ArrayBuffer) row[key] = Buffer.from(row[key]);
      yield this.isPlucked ? first(row) : row;
    }
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
    this.statements = new Set();
    this.readonly = options.readonly === true;
    if (this.readonly) this.exec('PRAGMA query_only = ON');
  }
  prepare(sql) {
    const statement = new Statement(super.prepare(sql));
    this.statements.add(statement);
    return statement;
  }
  pragma(source, { simple = false } = {}) {
    const statement = this.prepare(`PRAGMA ${source}`);
    return simple ? statement.pluck().get() : statement.all();
  }
  exec(sql) {
    super.exec(sql);
    return this;
  }
  /** Statements keep the file open until they are collected, which nothing in libsql asks for. */
  close() {
    if (this.open) super.close();
    for (const statement of this.statements) statement.inner = null;
    this.statements.clear();
    collectSoon();
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
