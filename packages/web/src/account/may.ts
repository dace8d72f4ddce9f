import { useQuery } from '@tanstack/react-query';
import { builtInRoles, whoMay, type Permission } from '@bright-cellar/core';
import { queries } from '../api/queries.js';

/** What whoever is signed in may do; all, until it is known who that is. The server asks again: this only says so beforehand. */
export function useMay(): (permission: Permission) => boolean {
  const may = useQuery(queries.session()).data?.may;
  return (permission) => may === undefined || may.includes(permission);
}

/** Who may do something, in words, by the roles that there are here. */
export function useWhoMay(): (permission: Permission) => string {
  const roles = useQuery(queries.session()).data?.roles ?? builtInRoles;
  return (permission) => whoMay(permission, roles);
}

/** Who may, in a sentence for who may not. */
export function useOnlyWords(): (permission: Permission) => string {
  const who = useWhoMay();
  return (permission) => `Only ${who(permission)} may change this.`;
}
