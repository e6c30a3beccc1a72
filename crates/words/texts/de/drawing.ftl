
# board.rs
drawing-simulated = , simuliert
drawing-empty = leer
drawing-no-errors = keine Fehler hier
drawing-errors = { $n } Fehler

# location.rs
drawing-words =
    { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörter
    }

# speed.rs
drawing-compared = { $name }, verglichen
drawing-bandwidth = Durchsatz über die Arbeitsmenge jedes Kerns, { $cores }
drawing-working-set = Arbeitsmenge jedes Kerns
drawing-latency = Zeit eines Lesens, das auf das vorige wartet, in zufälliger Folge
drawing-memory = Speicher
drawing-first-cache = erster Cache
drawing-widths = Durchsatz nach Breite jedes Zugriffs, ein Kern
drawing-bits = Bits eines Zugriffs
drawing-strides = Zeit eines Lesens nach dem Abstand zum nächsten, ein Kern
drawing-distance = Abstand zwischen Lesezugriffen
