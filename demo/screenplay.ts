/** The demo's own screenplay, up to the kite. */
export const SCREENPLAY = `Title: Salt Lantern
Author: The Rubato demo

INT. LIGHTHOUSE TOWER - DAY

OSKAR, the keeper, trims the wick. The flame dips, and dips again.

OSKAR
That's the last of the good oil.

He lowers a bucket on a rope. Far below, TILDA waves; the goose BRISKET does not.

OSKAR
(calls down)
Run to the store! Before dark!

EXT. SALT MARSH - DUSK

Dusk. The lamp gutters.

Oskar looks up.

OSKAR
Mind the lamp.

EXT. BOARDWALK - CONTINUOUS

Tilda sets off. Brisket follows.

She sees the beam falter.

TILDA
It's going out!

EXT. BOARDWALK RAIL - CONTINUOUS

Brisket stops dead at the rail.

TILDA
Brisket, the oil!

The lantern swings. A single drop falls into the reeds.

INT. LAMP ROOM - NIGHT

The flame is a thread. Oskar cups it with both hands.

OSKAR
A little longer.

Feet on the stair. Tilda, out of breath, the lantern held high.

TILDA
Here! It's here!

She pours. The lamp takes, and the whole marsh turns gold.

EXT. SALT MARSH - DAWN

A kite rises over the boardwalk. Brisket watches it as if it owed her something.

TILDA
You'd only eat it.
`
