import { useQuery } from '@tanstack/react-query';
import { queries } from '../api/queries.js';
import { useNewPassword } from './new-password.js';

/**
 * The password of an archive that is about to begin: typed, made, or by the customer on a page of their own.
 * @param isSealed false for an archive that is not encrypted: it needs none
 */
export function useArchivePassword(ticket: string, isSealed = true) {
  const desk = useQuery(queries.desk(ticket)).data;
  const { value, set, ready, clear } = useNewPassword();
  const fromDesk = isSealed && value.source === 'desk';
  return {
    value,
    set,
    clear,
    ready: !isSealed || (fromDesk ? desk?.state === 'given' : ready),
    /** What a route asks for. */
    body: {
      fromDesk,
      password: isSealed && !fromDesk ? value.password : '',
      passwordHolder: value.holder,
      reminder: value.reminder,
    },
  };
}
