import { useQuery } from '@tanstack/react-query';
import clsx from 'clsx';
import {
  Bell,
  BellOff,
  CircleUserRound,
  ExternalLink,
  Lock,
  LogOut,
  MoonStar,
  Search,
  Sun,
} from 'lucide-react';
import { useEffect, useState } from 'react';
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import { useMay } from '../account/may.js';
import { useLive } from '../api/live.js';
import { queries } from '../api/queries.js';
import { useSignOut } from '../api/use-sign-out.js';
import { BenchStrip } from '../bench/bench-strip.js';
import { setSound, soundIsOn, useCalls } from '../bench/use-calls.js';
import { LookSign } from '../look/look-sign.js';
import { CommandBar } from './command-bar.js';
import { entranceOf } from './place.js';
import { places } from './places.js';
import { ShortcutList } from './shortcut-list.js';
import { applyTheme, savedTheme } from './theme.js';
import { useIdleLock, useLock } from './use-idle-lock.js';
import { useShortcuts } from './use-shortcuts.js';

/** The house: upstairs the counter, downstairs the cellar, and the bench in sight from everywhere. */
export function Shell() {
  const connected = useLive();
  useCalls();
  useIdleLock();
  const [commandOpen, setCommandOpen] = useState(false);
  const [helpOpen, setHelpOpen] = useState(false);
  useShortcuts({ command: () => setCommandOpen(true), help: () => setHelpOpen(true) });
  useFocusOnNewPage();
  return (
    <div className="relative flex h-full overflow-hidden">
      <a
        href="#main"
        className="sr-only z-50 bg-surface p-3 focus:not-sr-only focus:absolute focus:top-2 focus:left-2"
      >
        Skip to the page
      </a>
      <House onCommand={() => setCommandOpen(true)} />
      <div className="flex min-w-0 flex-1 flex-col">
        {!connected && (
          <p role="status" className="bg-lamp px-5 py-1.5 font-semibold text-[#211f1c]">
            The connection to the server is lost. Work that runs goes on; this screen reconnects by
            itself.
          </p>
        )}
        <LookSign />
        <BenchStrip />
        <main id="main" tabIndex={-1} className="min-h-0 flex-1 overflow-y-auto outline-none">
          <Outlet />
        </main>
      </div>
      <CommandBar open={commandOpen} onOpenChange={setCommandOpen} />
      <ShortcutList open={helpOpen} onOpenChange={setHelpOpen} />
    </div>
  );
}

/** What was pressed on the last page is gone with it: the focus goes to the new page rather than nowhere. */
function useFocusOnNewPage(): void {
  const { pathname } = useLocation();
  useEffect(() => {
    const drawn = requestAnimationFrame(() => {
      if (document.activeElement === document.body) document.getElementById('main')?.focus();
    });
    return () => cancelAnimationFrame(drawn);
  }, [pathname]);
}

function House({ onCommand }: { onCommand: () => void }) {
  const session = useQuery(queries.session()).data;
  const navigate = useNavigate();
  const [theme, setTheme] = useState(savedTheme());
  const [sound, setSoundState] = useState(soundIsOn());
  const lock = useLock();
  const other = theme === 'day' ? 'dim' : 'day';
  const signOut = useSignOut(() => navigate('/'));
  return (
    <nav
      aria-label="Places"
      className="house flex w-40 shrink-0 flex-col overflow-y-auto border-r border-edge bg-surface"
    >
      <div className="flex flex-col gap-1 p-3 pb-5">
        <p className="flex items-center gap-2 pb-3 text-large leading-5 font-bold">
          <img src="/lamp.svg" alt="" className="size-7" /> Bright Cellar
        </p>
        <p className="px-2 text-small text-soft">Upstairs</p>
        <Floor floor="upstairs" />
        <button
          type="button"
          onClick={onCommand}
          className="flex h-9 items-center gap-2 rounded-sm px-2 hover:bg-ground"
        >
          <Search className="size-4" /> Find
          <kbd className="ml-auto rounded-sm border border-line px-1 font-mono text-small text-soft">
            /
          </kbd>
        </button>
      </div>
      <div className="on-cellar flex flex-1 flex-col gap-1 border-t-8 border-edge bg-cellar p-3 text-cellar-ink">
        <p className="px-2 text-small text-cellar-soft">Downstairs</p>
        <Floor floor="downstairs" />
        <div className="mt-auto flex flex-col gap-1 text-small">
          <Floor floor="foot" />
          {session?.trayAddress && (
            <a
              href={session.trayAddress}
              target="_blank"
              rel="noreferrer"
              className="flex min-h-8 items-center gap-2 rounded-sm px-2 hover:bg-cellar-line"
            >
              <ExternalLink className="size-4" /> Stand-in tray
            </a>
          )}
          <button
            type="button"
            className="flex min-h-8 items-center gap-2 rounded-sm px-2 hover:bg-cellar-line"
            onClick={() => {
              applyTheme(other);
              setTheme(other);
            }}
          >
            {theme === 'day' ? <MoonStar className="size-4" /> : <Sun className="size-4" />}
            {theme === 'day' ? 'Dim the screen' : 'Daylight'}
          </button>
          <button
            type="button"
            aria-pressed={sound}
            className="flex min-h-8 items-center gap-2 rounded-sm px-2 hover:bg-cellar-line"
            onClick={() => {
              setSound(!sound);
              setSoundState(!sound);
            }}
          >
            {sound ? <Bell className="size-4" /> : <BellOff className="size-4" />}
            {sound ? 'Sound is on' : 'Sound is off'}
          </button>
          <button
            type="button"
            className="flex min-h-8 items-center gap-2 rounded-sm px-2 hover:bg-cellar-line"
            onClick={() => void signOut()}
          >
            <LogOut className="size-4" /> Sign out
          </button>
          <div className="border-t border-cellar-line pt-2">
            <span className="flex items-center gap-1">
              <Link
                to="/account"
                className="flex min-h-8 min-w-0 flex-1 items-center gap-2 rounded-sm px-2 hover:bg-cellar-line"
              >
                <CircleUserRound className="size-4 shrink-0" /> {session?.technician.name}
              </Link>
              <button
                type="button"
                aria-label="Lock this screen"
                title="Lock this screen (Ctrl Shift L)"
                className="flex size-8 shrink-0 items-center justify-center rounded-sm hover:bg-cellar-line"
                onClick={() => void lock()}
              >
                <Lock className="size-4" />
              </button>
            </span>
            <p className="px-2 text-cellar-soft">{session?.shopName}</p>
          </div>
        </div>
      </div>
    </nav>
  );
}

/** The places of one floor. */
function Floor({ floor }: { floor: 'upstairs' | 'downstairs' | 'foot' }) {
  const below = floor !== 'upstairs';
  const may = useMay();
  return places.map((place) => {
    const { inHouse, permission } = place;
    if (inHouse?.floor !== floor || (permission && !may(permission))) return null;
    const to = entranceOf(place);
    const Icon = inHouse.icon;
    return (
      <NavLink
        key={to}
        to={to}
        end={to === '/'}
        className={({ isActive }) =>
          clsx(
            'flex items-center gap-2 rounded-sm px-2 [&_svg]:size-4',
            floor === 'foot' ? 'min-h-8' : 'h-9',
            below ? 'hover:bg-cellar-line' : 'hover:bg-ground',
            isActive && 'font-bold',
            isActive && (below ? 'bg-cellar-line' : 'bg-ground'),
          )
        }
      >
        <Icon /> {inHouse.name}
      </NavLink>
    );
  });
}
