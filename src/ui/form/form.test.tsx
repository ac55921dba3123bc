/** @jest-environment jsdom */
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { AddVolume } from '../storage/AddVolume';
import { inBrowser, press, read, Refusal, requests, server, show, type } from '../testing/livePage';
import { keepDraft, readDraft } from './drafts';

inBrowser();
beforeEach(() => localStorage.clear());

const alerts = () => screen.queryAllByRole('alert').map(({ textContent }) => textContent);
const valueOf = (label: string) => screen.getByLabelText<HTMLInputElement>(label).value;

test('what was typed and not sent is offered again, until it is discarded or sent', async () => {
  let done = 0;
  server(({ path }) => (path === '/api/volumes' ? { id: 'v9' } : undefined));
  const form = <AddVolume onDone={() => done++} />;
  const { again } = await show(<div key="one">{form}</div>);
  const offer = () => screen.queryByRole('button', { name: 'Continue it' });
  expect(offer()).toBeNull();
  await type('Name', 'Shuttle');
  await type('Folder on this host', '/media/shuttle');
  await again(<p key="two">another page</p>);
  await again(<div key="three">{form}</div>);
  // It does not come unasked: somebody may be typing already, and goes on to.
  expect(valueOf('Name')).toBe('');
  await type('Name', 'Card');
  expect(offer()).not.toBeNull();
  await press('Continue it');
  expect(valueOf('Name')).toBe('Shuttle');
  expect(valueOf('Folder on this host')).toBe('/media/shuttle');
  expect(read()).toContain('Not sent last time.');
  await press('Discard draft');
  expect(valueOf('Name')).toBe('');
  expect(read()).not.toContain('Not sent last time.');
  await again(<p key="four">another page</p>);
  await again(<div key="five">{form}</div>);
  expect(offer()).toBeNull();
  await type('Name', 'Shuttle');
  await type('Folder on this host', '/media/shuttle');
  await press('Add and scan');
  expect(requests.at(-1)?.body).toMatchObject({ name: 'Shuttle', path: '/media/shuttle', standIn: null });
  expect(done).toBe(1);
  await again(<p key="six">another page</p>);
  await again(<div key="seven">{form}</div>);
  expect(offer()).toBeNull();
});

test('a draft of another shape is taken as far as it fits', () => {
  keepDraft('volume', { name: 'Kept', price: 7, standIn: { link: 'wifi' }, gone: true });
  expect(readDraft('volume', { name: '', price: '', standIn: { link: '', seed: '1' } })).toEqual({
    name: 'Kept',
    price: '',
    standIn: { link: 'wifi', seed: '1' },
  });
  localStorage.setItem('navvy-draft:broken', '{');
  expect(readDraft('broken', { name: '' })).toBeNull();
  keepDraft('same', { name: '' });
  expect(readDraft('same', { name: '' })).toBeNull();
});

test('each field says what is wrong with it, also one that is folded away; the first has the focus', async () => {
  await show(<AddVolume onDone={() => undefined} />);
  await userEvent.click(screen.getByRole('radio', { name: 'Simulated, by a model' }));
  await type('How many', '0');
  await type('Others take, MB/s', 'lots');
  await press('Add and scan');
  expect(requests).toEqual([]);
  expect(alerts()).toEqual([
    'Give the volume a name.',
    'Give the folder as a full path that begins with /.',
    'A stand-in has at least one drive.',
    'What others take must be a number.',
  ]);
  expect(document.activeElement).toBe(screen.getByLabelText('Name'));
  expect(screen.getByText('Round trip, other clients, scripted fault').closest('details')?.open).toBe(true);
  // Chosen otherwise, what is out of sight is no longer asked for.
  await userEvent.click(screen.getByRole('radio', { name: 'As the folder gives them' }));
  await type('Name', 'Shuttle');
  await type('Folder on this host', '/media/shuttle');
  expect(alerts()).toEqual([]);
});

test('what the server refuses stands at its field, and by itself where it has none', async () => {
  server(() => new Refusal('/etc lies outside the folders that Navvy may use.', 'path'));
  await show(<AddVolume onDone={() => undefined} />);
  await type('Name', 'Shuttle');
  await type('Folder on this host', '/etc');
  await press('Add and scan');
  expect(alerts()).toEqual(['/etc lies outside the folders that Navvy may use.']);
  expect(screen.getByLabelText('Folder on this host').getAttribute('aria-invalid')).toBe('true');
  server(() => new Refusal('The database does not answer.', null));
  await press('Add and scan');
  expect(alerts()).toEqual(['The database does not answer.']);
  expect(screen.getByLabelText('Folder on this host').getAttribute('aria-invalid')).toBe('false');
});
