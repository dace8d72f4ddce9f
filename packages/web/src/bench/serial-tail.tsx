import { serialTail } from '@bright-cellar/core';
import { useState, type ReactNode } from 'react';
import { TextField } from '../design/field.js';

/** The last characters of a device's serial, read off it by whoever is about to write to it. */
export interface SerialTail {
  field: ReactNode;
  tail: string;
  /** It is this device. */
  isRight: boolean;
  clear: () => void;
}

/** @param serial of the device; null where there is none */
export function useSerialTail(serial: string | null, label = 'Serial, last 4'): SerialTail {
  const [tail, setTail] = useState('');
  const typed = tail.trim().toUpperCase();
  const isRight = serial !== null && typed === serialTail(serial).toUpperCase();
  return {
    field: (
      <TextField
        label={label}
        className="w-28"
        value={tail}
        onChange={({ target }) => setTail(target.value)}
        error={typed.length === 4 && !isRight ? 'Not this device.' : undefined}
        maxLength={4}
        autoComplete="off"
        mono
      />
    ),
    tail,
    isRight,
    clear: () => setTail(''),
  };
}
