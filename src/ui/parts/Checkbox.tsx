import { clsx } from 'clsx';
import type { KeyboardEventHandler, ReactNode } from 'react';

interface CheckboxProps {
  /** `mixed`: some of what it stands for. */
  readonly checked: boolean | 'mixed';
  readonly onChange: (checked: boolean) => void;
  /** Its name where it has no text beside it, or where that does not say all. */
  readonly label?: string;
  readonly disabled?: boolean;
  readonly className?: string;
  readonly onKeyDown?: KeyboardEventHandler;
}

/** The box alone. Its look is `check-box` in the style sheet. */
export function Checkbox({ checked, onChange, label, disabled, className, onKeyDown }: CheckboxProps) {
  return (
    <input
      type="checkbox"
      aria-label={label}
      checked={checked === true}
      disabled={disabled}
      ref={(box) => {
        if (box) box.indeterminate = checked === 'mixed';
      }}
      onChange={(event) => onChange(event.target.checked)}
      onKeyDown={onKeyDown}
      className={clsx('check-box', className)}
    />
  );
}

/** The box with its text, as high as the fields beside it. */
export function CheckField({
  children,
  className = 'h-9',
  ...box
}: Omit<CheckboxProps, 'onKeyDown'> & { readonly children: ReactNode }) {
  return (
    <label className={clsx('flex items-center gap-2 whitespace-nowrap text-sm', className)}>
      <Checkbox {...box} />
      {children}
    </label>
  );
}
