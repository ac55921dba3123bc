/** @jest-environment jsdom */
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { inBrowser } from '../testing/livePage';
import { SearchChoice, searchIn, type Found, type Matches } from './SearchChoice';

inBrowser();

const items: readonly Found[] = ['A001', 'A002', 'B001', 'B002', 'B003'].map((name) => ({
  id: name.toLowerCase(),
  name,
}));

function choice(search: (text: string) => Matches<Found> | Promise<Matches<Found>>): string[] {
  const chosen: string[] = [];
  render(<SearchChoice label="Clip" value={null} onChange={({ id }) => chosen.push(id)} search={search} />);
  return chosen;
}

test('the first of what matches is taken by Enter, also where others have gone from the list', async () => {
  const chosen = choice(searchIn(items));
  await userEvent.click(screen.getByLabelText('Clip'));
  await userEvent.keyboard('b0');
  expect(await screen.findAllByRole('option')).toHaveLength(3);
  expect(screen.getByRole('option', { selected: true }).textContent).toContain('B001');
  await userEvent.keyboard('{ArrowDown}');
  expect(screen.getByRole('option', { selected: true }).textContent).toContain('B002');
  await userEvent.keyboard('9{Enter}');
  expect(chosen).toEqual([]);
  await userEvent.keyboard('{Backspace}03{Enter}');
  expect(chosen).toEqual(['b003']);
});

test('Enter pressed before the answer waits for it, and takes what was typed', async () => {
  const answers = new Map<string, (matches: Matches<Found>) => void>();
  const chosen = choice((text) => new Promise((resolve) => answers.set(text, resolve)));
  const answer = (text: string) => answers.get(text)!(searchIn(items)(text));
  await userEvent.click(screen.getByLabelText('Clip'));
  answer('');
  expect(await screen.findAllByRole('option')).toHaveLength(5);
  await userEvent.keyboard('b003{Enter}');
  expect(chosen).toEqual([]);
  answer('b0');
  answer('b003');
  await screen.findByLabelText('Clip');
  await new Promise((resolve) => setTimeout(resolve, 0));
  expect(chosen).toEqual(['b003']);
});

test('Enter takes back what it waited for when more is typed', async () => {
  const answers = new Map<string, (matches: Matches<Found>) => void>();
  const chosen = choice((text) => new Promise((resolve) => answers.set(text, resolve)));
  await userEvent.click(screen.getByLabelText('Clip'));
  await userEvent.keyboard('a{Enter}0');
  answers.get('a0')!(searchIn(items)('a0'));
  expect(await screen.findAllByRole('option')).toHaveLength(2);
  expect(chosen).toEqual([]);
});
