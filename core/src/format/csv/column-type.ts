import type { Field, FieldType } from '../../dataset/dataset.js';
import { COMMA_NUMBER, degreesOf, isIsoDate, isoDate } from './written-as.js';

/** What all values of a column may be. */
const INTEGER = 1;
const INTEGER64 = 2;
const REAL = 4;
const COMMA = 8;
const ISO_DATE = 16;
const DAY_FIRST = 32;
const MONTH_FIRST = 64;
const DEGREES = 128;
const ALL = 255;
const NUMBER = INTEGER | INTEGER64 | REAL | COMMA;

/** A code, not a number: leading zeros would be lost (postal codes, keys of municipalities), as would the plus of a telephone number. */
const CODE = /^[-+]?0\d+$|^\+\d{7,}$/;

/** Learns from each value of a column what all of them may be. */
export class ColumnType {
  private may = ALL;
  private hasValues = false;
  /** With a comma: one that can only be a decimal comma, and one that could part thousands. */
  private isComma = false;
  private hasComma = false;
  /** With a point that can only be a decimal point; and one that could part thousands. */
  private isPoint = false;
  private hasGroups = false;
  private min = Infinity;
  private max = -Infinity;

  /** @param value without blanks around it, not empty */
  add(value: string): void {
    this.hasValues = true;
    if (this.may !== 0) this.may &= this.kindsOf(value);
  }

  private kindsOf(value: string): number {
    const { may } = this;
    let kinds = 0;
    if (may & NUMBER) {
      if (/^[-+]?\d{1,18}$/.test(value)) {
        if (CODE.test(value)) return 0;
        this.range(Number(value));
        return value.length <= 9 ? INTEGER | INTEGER64 | REAL | COMMA : INTEGER64 | REAL | COMMA;
      }
      if (/^[-+]?(\d+\.\d*|\.\d+|\d+)([eE][-+]?\d+)?$/.test(value) && !/^[-+]?\d{19,}$/.test(value)) {
        kinds |= REAL;
        this.range(Number(value));
        if (/^[-+]?\d{1,3}(\.\d{3})+$/.test(value)) this.hasGroups = true;
        else this.isPoint = true;
      }
      if (may & COMMA && COMMA_NUMBER.test(value)) {
        kinds |= COMMA;
        if (value.includes(',')) {
          this.hasComma = true;
          if (!/^[-+]?\d{1,3},\d{3}$/.test(value)) this.isComma = true;
        }
      }
    }
    if (may & ISO_DATE && isIsoDate(value)) kinds |= ISO_DATE;
    if (may & DAY_FIRST && isoDate(value, false) !== null) kinds |= DAY_FIRST;
    if (may & MONTH_FIRST && isoDate(value, true) !== null) kinds |= MONTH_FIRST;
    if (may & DEGREES && degreesOf(value) !== null) kinds |= DEGREES;
    return kinds;
  }

  private range(n: number): void {
    if (n < this.min) this.min = n;
    if (n > this.max) this.max = n;
  }

  /** Some number in it has a comma that cannot part thousands. */
  get showsComma(): boolean {
    return (this.may & COMMA) !== 0 && (this.may & REAL) === 0 && this.isComma;
  }

  /** All values are numbers or days. */
  get isTyped(): boolean {
    return this.hasValues && this.may !== 0;
  }

  /** The least and the greatest number that programs can read; null: there is none. */
  get extremes(): readonly [number, number] | null {
    return this.min <= this.max ? [this.min, this.max] : null;
  }

  /** As a stated type; null: some value is none of it. */
  as(type: FieldType): Pick<Field, 'type' | 'writtenAs'> | null {
    const { may } = this;
    if (!this.hasValues) return { type };
    switch (type) {
      case 'integer':
        return may & INTEGER ? { type } : may & INTEGER64 ? { type: 'integer64' } : null;
      case 'integer64':
        return may & INTEGER64 ? { type } : null;
      case 'real':
        return may & REAL ? { type } : may & COMMA ? { type, writtenAs: 'comma' } : null;
      case 'date':
        if (may & ISO_DATE) return { type };
        return may & DAY_FIRST ? { type, writtenAs: 'day-first' } : may & MONTH_FIRST ? { type, writtenAs: 'month-first' } : null;
      default:
        return type === 'text' ? { type } : null;
    }
  }

  /**
   * @param isComma the table has numbers that can only have a decimal comma
   * @returns `isOpen`: the values could be read in two ways, and are left as text
   */
  decide(isComma: boolean): Pick<Field, 'type' | 'writtenAs'> & { readonly isOpen?: true } {
    const { may } = this;
    const plain = (type: FieldType): Pick<Field, 'type'> => ({ type });
    if (!this.hasValues || may === 0) return plain('text');
    if (may & INTEGER) return plain('integer');
    if (may & INTEGER64) return plain('integer64');
    if (may & REAL) return isComma && this.hasGroups && !this.isPoint ? { type: 'text', isOpen: true } : plain('real');
    if (may & COMMA && this.hasComma)
      return this.isComma || isComma ? { type: 'real', writtenAs: 'comma' } : { type: 'text', isOpen: true };
    if (may & ISO_DATE) return plain('date');
    if (may & DAY_FIRST && may & MONTH_FIRST) return { type: 'text', isOpen: true };
    if (may & DAY_FIRST) return { type: 'date', writtenAs: 'day-first' };
    if (may & MONTH_FIRST) return { type: 'date', writtenAs: 'month-first' };
    return may & DEGREES ? { type: 'text', writtenAs: 'degrees' } : plain('text');
  }
}
