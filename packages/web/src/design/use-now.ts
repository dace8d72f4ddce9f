import { useEffect, useState } from 'react';

const MINUTE_MS = 60_000;

/** The time to the minute: a page that is left open over midnight says the new day. */
export function useNow(): Date {
  const [now, setNow] = useState(() => new Date());
  useEffect(() => {
    const timer = setInterval(() => setNow(new Date()), MINUTE_MS);
    return () => clearInterval(timer);
  }, []);
  return now;
}
