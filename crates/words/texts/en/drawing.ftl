
# board.rs
drawing-simulated = , simulated
drawing-empty = empty
drawing-no-errors = no errors in this slot
drawing-errors =
    { $n ->
        [one] { $n } error
       *[other] { $n } errors
    }

# location.rs
drawing-words =
    { $n ->
        [one] { $n } word
       *[other] { $n } words
    }

# speed.rs
drawing-compared = { $name }, compared
drawing-bandwidth = Bandwidth over the working set of each core, { $cores }
drawing-working-set = working set of each core
drawing-latency = Time of a load that waits for the one before, in random order
drawing-memory = memory
drawing-first-cache = first cache
drawing-widths = Bandwidth by the width of each access, one core
drawing-bits = bits of one access
drawing-strides = Time of one load by the distance to the next, one core
drawing-distance = distance between loads
