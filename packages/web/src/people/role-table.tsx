import { useQuery } from '@tanstack/react-query';
import type { RoleRow } from '@bright-cellar/contract';
import { permissionIds, permissions } from '@bright-cellar/core';
import { useState } from 'react';
import { useMay } from '../account/may.js';
import { queries } from '../api/queries.js';
import { Button } from '../design/button.js';
import { Section } from '../design/page.js';
import { RoleOverlay } from './role-overlay.js';

/** What a role is called; one that is no more is of somebody who left. */
export const nameOf = (roles: readonly RoleRow[], id: string): string =>
  roles.find((role) => role.id === id)?.name ?? 'a role that is no more';

/** Each thing that can be done here, and who may. The shop makes roles of its own beside those that every shop has. */
export function RoleTable() {
  const may = useMay()('people');
  const roles = useQuery(queries.roles()).data ?? [];
  const [asked, setAsked] = useState<'new' | RoleRow | null>(null);
  return (
    <Section
      title="What each may do"
      aside={may && <Button onClick={() => setAsked('new')}>Make a role</Button>}
    >
      <div className="overflow-x-auto border border-line bg-surface">
        <table className="w-full">
          <thead>
            <tr className="border-b border-edge text-left align-bottom text-small">
              <th className="px-2 py-1.5">To</th>
              {roles.map((role) => (
                <th key={role.id} className="w-32 px-2 py-1.5">
                  {role.name}
                  {may && !role.builtIn && (
                    <button
                      type="button"
                      className="block font-normal underline"
                      aria-label={`Change what ${role.name} may do`}
                      onClick={() => setAsked(role)}
                    >
                      Change
                    </button>
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {permissionIds.map((permission) => (
              <tr key={permission} className="h-8 border-b border-line last:border-0">
                <th scope="row" className="px-2 text-left font-normal">
                  {permissions[permission]}
                </th>
                {roles.map((role) => (
                  <td key={role.id} className="px-2">
                    {role.permissions.includes(permission) ? (
                      'may'
                    ) : (
                      <span className="text-soft">may not</span>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {asked !== null && (
        <RoleOverlay role={asked === 'new' ? null : asked} onClose={() => setAsked(null)} />
      )}
    </Section>
  );
}
