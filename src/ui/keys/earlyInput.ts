type Field = HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement;

/** What a person did on a page whose script did not run yet. */
interface EarlyInput {
  readonly keys: KeyboardEvent[];
  /** What fields were set to. */
  readonly fields: Map<Field, string | boolean>;
  readonly clicks: HTMLElement[];
  readonly forms: (readonly [HTMLFormElement, HTMLElement | null])[];
  /** From here on the page takes clicks and forms itself: done twice, they would be two. */
  readonly endDeeds: () => void;
  /** From here on the page takes fields itself. Until it is alive it may put back what was set: set twice, a field is the same. */
  readonly endFields: () => void;
  readonly endKeys: () => void;
}

declare global {
  interface Window {
    navvyEarly?: EarlyInput;
  }
}

/** Runs in the page before it is drawn; it is sent as text, so it must stand by itself. */
function listenEarly(): void {
  const keys: KeyboardEvent[] = [];
  const fields = new Map<Field, string | boolean>();
  const clicks: HTMLElement[] = [];
  const forms: (readonly [HTMLFormElement, HTMLElement | null])[] = [];
  const onKey = (event: KeyboardEvent): void => {
    keys.push(event);
  };
  const onInput = ({ target }: Event): void => {
    if (target instanceof HTMLInputElement && target.type !== 'file')
      fields.set(
        target,
        target.type === 'checkbox' || target.type === 'radio' ? target.checked : target.value,
      );
    else if (target instanceof HTMLTextAreaElement || target instanceof HTMLSelectElement)
      fields.set(target, target.value);
  };
  const onClick = ({ target }: MouseEvent): void => {
    const button =
      target instanceof Element ? target.closest<HTMLElement>('button:not([type=submit])') : null;
    if (button) clicks.push(button);
  };
  const onSubmit = (event: SubmitEvent): void => {
    event.preventDefault(); // the browser would load the page anew, and what was typed would be lost
    if (event.target instanceof HTMLFormElement) forms.push([event.target, event.submitter]);
  };
  window.addEventListener('keydown', onKey, true);
  window.addEventListener('input', onInput, true);
  window.addEventListener('click', onClick, true);
  window.addEventListener('submit', onSubmit, true);
  window.navvyEarly = {
    keys,
    fields,
    clicks,
    forms,
    endKeys: () => window.removeEventListener('keydown', onKey, true),
    endFields: () => window.removeEventListener('input', onInput, true),
    endDeeds: () => {
      window.removeEventListener('click', onClick, true);
      window.removeEventListener('submit', onSubmit, true);
    },
  };
}

/** The text of the script that keeps what is done on a page until its own script runs. */
export const earlyScript = `(${listenEarly.toString()})()`;

/** The interface begins to come alive: what is done with buttons and forms from now on is its own. */
export function endEarlyDeeds(): void {
  window.navvyEarly?.endDeeds();
}

/** The interface is alive: gives the keys that were kept, and does again what was done in fields, with buttons and forms. */
export function takeEarlyInput(): readonly KeyboardEvent[] {
  const early = window.navvyEarly;
  if (!early) return [];
  delete window.navvyEarly;
  early.endKeys();
  early.endDeeds();
  void doAgain(early);
  return early.keys;
}

async function doAgain({ fields, clicks, forms, endFields }: EarlyInput): Promise<void> {
  const drawn = () =>
    new Promise((resolve) => {
      setTimeout(resolve);
    });
  for (const field of fields.keys()) {
    await drawn(); // each is answered before the next
    setField(field, fields.get(field) as string | boolean); // it may have been set again by now
  }
  endFields();
  for (const button of clicks) {
    await drawn();
    if (button.isConnected) button.click();
  }
  for (const [form, button] of forms) {
    await drawn();
    if (form.isConnected) form.requestSubmit(button);
  }
}

/** Sets a field so that React hears of it, which keeps what it last knew of a field by its `value` property and ignores events that tell nothing new. */
function setField(field: Field, value: string | boolean): void {
  if (!field.isConnected) return;
  if (typeof value === 'boolean') {
    if ((field as HTMLInputElement).checked !== value) field.click();
    return;
  }
  if (field instanceof HTMLSelectElement) {
    field.value = value;
    field.dispatchEvent(new Event('change', { bubbles: true }));
    return;
  }
  field.value = value === '' ? '0' : ''; // what React then knows
  const kind = field instanceof HTMLTextAreaElement ? HTMLTextAreaElement : HTMLInputElement;
  Object.getOwnPropertyDescriptor(kind.prototype, 'value')?.set?.call(field, value); // what there is
  field.dispatchEvent(new Event('input', { bubbles: true }));
}
