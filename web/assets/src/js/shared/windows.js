// What a worker knows of the windows it serves. No page and no worker is needed here.

// A hidden window is let beat once a minute only, so it is missed after more than two.
export const missedAfter = 150000;

// beaten gives what is known of a window after a sign of life, which may say where it is.
export const beaten = (known, m, now) => ({ at: m.at || known?.at || null, seen: now });

// listed gives where windows are that said so.
export const listed = (windows) => windows.map((w) => w.at).filter(Boolean);

// silent gives the keys of windows that gave no sign of life for long: they were closed without a word.
export const silent = (windows, now) => [...windows].filter(([, w]) => now - w.seen > missedAfter).map(([key]) => key);
