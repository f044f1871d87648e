/** A condition on the fields of a record, as the grammar gives it. */
export type Condition =
  | { readonly op: 'and' | 'or'; readonly parts: readonly Condition[] }
  | { readonly op: 'not'; readonly part: Condition }
  | { readonly op: CompareOp; readonly left: Operand; readonly right: Operand }
  | { readonly op: 'in'; readonly value: Operand; readonly list: readonly Operand[] }
  | { readonly op: 'like'; readonly value: Operand; readonly pattern: string; readonly ignoresCase: boolean }
  | { readonly op: 'between'; readonly value: Operand; readonly low: Operand; readonly high: Operand }
  | { readonly op: 'null'; readonly value: Operand };

export type CompareOp = '=' | '<>' | '<' | '<=' | '>' | '>=';
export type Operand =
  | { readonly field: string }
  | { readonly literal: string | number | boolean }
  | { readonly op: '+' | '-' | '*' | '/'; readonly left: Operand; readonly right: Operand };

/** Names of fields in the order in which the condition mentions them, each once. */
export function fieldsOf(condition: Condition): string[] {
  const found = new Set<string>();
  const ofOperand = (o: Operand): void => {
    if ('field' in o) found.add(o.field);
    else if ('left' in o) [o.left, o.right].forEach(ofOperand);
  };
  const visit = (c: Condition): void => {
    if ('parts' in c) c.parts.forEach(visit);
    else if ('part' in c) visit(c.part);
    else if ('left' in c) [c.left, c.right].forEach(ofOperand);
    else {
      ofOperand(c.value);
      if (c.op === 'in') c.list.forEach(ofOperand);
      if (c.op === 'between') [c.low, c.high].forEach(ofOperand);
    }
  };
  visit(condition);
  return [...found];
}
