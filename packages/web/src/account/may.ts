import { useQuery } from '@tanstack/react-query';
import { mayDo, whoMay, type Permission } from '@bright-cellar/core';
import { queries } from '../api/queries.js';

/** What whoever is signed in may do; all, until it is known who that is. The server asks again: this only says so beforehand. */
export function useMay(): (permission: Permission) => boolean {
  const role = useQuery(queries.session()).data?.technician.role;
  return (permission) => role === undefined || mayDo(role, permission);
}

/** Who may, in a sentence for who may not. */
export const onlyWords = (permission: Permission): string =>
  `Only ${whoMay(permission)} may change this.`;
