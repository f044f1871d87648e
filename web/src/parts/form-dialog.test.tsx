/** @jest-environment jsdom */
import { afterEach, expect, jest, test } from '@jest/globals';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { TextField } from '@mui/material';
import { FormDialog } from './form-dialog.js';

afterEach(cleanup);

function shown(over: Partial<Parameters<typeof FormDialog>[0]> = {}) {
  const [onConfirm, onClose] = [jest.fn(), jest.fn()];
  render(
    <FormDialog title="Make a map" confirm="Make it" disabled={false} onConfirm={onConfirm} onClose={onClose} {...over}>
      <TextField label="Title" />
    </FormDialog>,
  );
  return { onConfirm, onClose, form: screen.getByRole<HTMLFormElement>('dialog') };
}

test('it is a form with a name: what Enter in a field does is what the button does', () => {
  const { onConfirm, form } = shown();
  expect(form.tagName).toBe('FORM');
  expect(screen.getByRole('dialog', { name: 'Make a map' })).toBe(form);
  // HTML, 4.10.21.2: Enter in a field submits the form by its first submit button; jsdom sends the event that comes of it.
  const button = screen.getByRole<HTMLButtonElement>('button', { name: 'Make it' });
  expect(button.type).toBe('submit');
  fireEvent.submit(form);
  expect(onConfirm).toHaveBeenCalledTimes(1);
  fireEvent.click(button);
  expect(onConfirm).toHaveBeenCalledTimes(2);
});

test('what cannot be done yet is not done by Enter either', () => {
  const { onConfirm, form } = shown({ disabled: true });
  fireEvent.submit(form);
  expect(onConfirm).not.toHaveBeenCalled();
});

test('Escape and Cancel leave; while it is going on, Escape does not', () => {
  const { onClose, form } = shown();
  fireEvent.keyDown(form, { key: 'Escape' });
  expect(onClose).toHaveBeenCalledTimes(1);
  fireEvent.click(screen.getByRole('button', { name: 'Cancel' }));
  expect(onClose).toHaveBeenCalledTimes(2);
  cleanup();
  const busy = shown({ isBusy: true });
  fireEvent.keyDown(busy.form, { key: 'Escape' });
  expect(busy.onClose).not.toHaveBeenCalled();
});

test('a dialog in a dialog confirms itself alone; its foot may be another one', () => {
  const outer = jest.fn();
  const inner = jest.fn();
  const nothing = (): void => undefined;
  render(
    <FormDialog title="Outer" confirm="Outer" disabled={false} onConfirm={outer} onClose={nothing} foot={(button) => <p>foot {button}</p>}>
      <FormDialog title="Inner" confirm="Inner" disabled={false} onConfirm={inner} onClose={nothing}>
        text
      </FormDialog>
    </FormDialog>,
  );
  fireEvent.submit(screen.getByRole('dialog', { name: 'Inner' }));
  expect([inner.mock.calls.length, outer.mock.calls.length]).toEqual([1, 0]);
  expect(screen.getByText('foot').textContent).toBe('foot Outer');
});
