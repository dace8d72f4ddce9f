import type { Permission } from '@bright-cellar/core';
import type { ComponentType } from 'react';

/** A place in the product, as it says itself to the house around it. */
export interface Place {
  /** Its addresses, and the page at each, fetched when somebody goes there. */
  pages: Record<string, () => Promise<ComponentType>>;
  /** Where it stands in the list of places; left out where one comes to it from another. */
  inHouse?: { floor: 'upstairs' | 'downstairs' | 'foot'; name: string; icon: ComponentType };
  /** How one asks for it in the command bar, and what the list of keys calls it. It leads to the first address. */
  command?: string;
  /** What one must be allowed to do to have anything to do there. */
  permission?: Permission;
  /** Which letter goes there after G. */
  key?: string;
}

/** The address that one goes to without having anything in mind there. */
export const entranceOf = ({ pages }: Place): string => Object.keys(pages)[0] ?? '/';
