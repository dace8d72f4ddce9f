import { shelfClasses, type ShelfId } from '@bright-cellar/contract';
import type { DataClass } from '@bright-cellar/core';
import type { ComponentType } from 'react';
import { Calendar } from './calendar.js';
import { Health } from './health.js';
import { HomeScreens } from './home-screen.js';
import { Photographs } from './photographs.js';
import { Music, Videos, VoiceNotes } from './played.js';
import { Alarms, Applications, Bookmarks, Calls, Contacts, Visits } from './tables.js';
import { Tasks } from './tasks.js';
import type { Shown } from './use-shelf.js';
import { Documents, Notes } from './writings.js';

/** How each shelf is called and read. One line adds one. */
export const shelfViews: Record<ShelfId, { name: string; View: ComponentType<Shown> }> = {
  contacts: { name: 'Contacts', View: Contacts },
  calls: { name: 'Call log', View: Calls },
  calendar: { name: 'Calendar', View: Calendar },
  tasks: { name: 'Tasks', View: Tasks },
  notes: { name: 'Notes', View: Notes },
  photographs: { name: 'Photographs', View: Photographs },
  videos: { name: 'Videos', View: Videos },
  'voice-notes': { name: 'Voice notes', View: VoiceNotes },
  music: { name: 'Music', View: Music },
  documents: { name: 'Documents', View: Documents },
  bookmarks: { name: 'Bookmarks', View: Bookmarks },
  visits: { name: 'Pages visited', View: Visits },
  alarms: { name: 'Alarms', View: Alarms },
  health: { name: 'Health', View: Health },
  applications: { name: 'Applications', View: Applications },
  screens: { name: 'Home screen', View: HomeScreens },
};

/** The shelves of a class. */
export const shelvesOf = (dataClass: DataClass): ShelfId[] =>
  (Object.keys(shelfViews) as ShelfId[]).filter((shelf) => shelfClasses[shelf] === dataClass);
