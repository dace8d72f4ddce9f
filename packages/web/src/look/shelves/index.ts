import type { ShelfId } from '@bright-cellar/contract';
import type { DataClass } from '@bright-cellar/core';
import type { ComponentType } from 'react';
import { Calendar } from './calendar.js';
import { Health } from './health.js';
import { HomeScreens } from './home-screen.js';
import { Photographs } from './photographs.js';
import { Music, Videos, VoiceNotes } from './played.js';
import { Alarms, Applications, Bookmarks, Calls, Contacts, Visits } from './tables.js';
import type { Shown } from './use-shelf.js';
import { Documents, Notes } from './writings.js';

/** How each shelf is called and read, and of which class it is. One line adds one. */
export const shelfViews: Record<
  ShelfId,
  { name: string; of: DataClass; View: ComponentType<Shown> }
> = {
  contacts: { name: 'Contacts', of: 'contacts', View: Contacts },
  calls: { name: 'Call log', of: 'calls', View: Calls },
  calendar: { name: 'Calendar', of: 'calendar', View: Calendar },
  notes: { name: 'Notes', of: 'notes', View: Notes },
  photographs: { name: 'Photographs', of: 'photographs', View: Photographs },
  videos: { name: 'Videos', of: 'videos', View: Videos },
  'voice-notes': { name: 'Voice notes', of: 'voice-notes', View: VoiceNotes },
  music: { name: 'Music', of: 'music', View: Music },
  documents: { name: 'Documents', of: 'documents', View: Documents },
  bookmarks: { name: 'Bookmarks', of: 'web-history', View: Bookmarks },
  visits: { name: 'Pages visited', of: 'web-history', View: Visits },
  alarms: { name: 'Alarms', of: 'alarms', View: Alarms },
  health: { name: 'Health', of: 'health', View: Health },
  applications: { name: 'Applications', of: 'applications', View: Applications },
  screens: { name: 'Home screen', of: 'settings', View: HomeScreens },
};

/** The shelves of a class. */
export const shelvesOf = (dataClass: DataClass): ShelfId[] =>
  (Object.keys(shelfViews) as ShelfId[]).filter((shelf) => shelfViews[shelf].of === dataClass);
