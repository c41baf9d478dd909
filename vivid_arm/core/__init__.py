"""The rules of the job, in the order of the work.

Set up
    ``lengths``       typed lengths and turns: read, check, write
    ``conventions``   rod ends and what a rod's "length" means
    ``instruments``   checking rod and caliper: range, turns, reading back
    ``engine``        layouts, firing order, valves along each head
    ``cam``           cam card, lobe and lobe table, heel of each valve
    ``wheel``         heel windows on the crank, plans of stops
Measure
    ``bracket``       trials at zero lash: estimate, contradictions, next trial
    ``methods``       the other ways of measuring, and several of them combined
    ``predict``       zero lash to expect from what changed
    ``spread``        what the measured valves say of head and banks
    ``catcher``       readings that cannot be right, and the likely mistake
Rocker geometry
    ``mechanism``     lobe lift to valve lift, contact, arm, ratio, in closed form
    ``sweep``         the mark: width, middle, mid-lift error, sliding, durations
    ``sheet``         dimensions with starting values and how well they are known
    ``marks``         where the fulcrum stands, from what was seen
    ``correction``    rod or shim to fit, the schools, the next best reading
    ``advice``        verdict and next reading in words, opened figures
    ``ratio``         measured ratio, lift lost to the springs
Decide and order
    ``preload``       schools, window, exact length, lengths that can be bought
    ``order``         intake and exhaust as groups, one length each
    ``infer``         valves nobody measured
    ``growth``        cold to hot, part by part
    ``chance``        how likely a preload lies in its window
    ``grouping``      fewest lengths, sorting rods onto valves, remedies
    ``decide``        all valves decided, ways of buying side by side
    ``rod``           strength, room in the head, cut lists
Fit and sign off
    ``checks``        what is checked, limits, margins, lash
    ``torque``        fastener figures in every unit
Across all
    ``errors``        one exception for input that cannot be right
    ``explain``       a figure, its formula and its source
    ``verdicts``      what, why, and what to do next

Pure functions over floats and arrays; lengths in inches, no clock, no files, no database.
"""
