# Die Sprache selbst.

language-name = Deutsch
language-decimal-sign = ,
language-date = { $day }. { $month ->
        [1] Jan.
        [2] Feb.
        [3] März
        [4] Apr.
        [5] Mai
        [6] Juni
        [7] Juli
        [8] Aug.
        [9] Sept.
        [10] Okt.
        [11] Nov.
       *[12] Dez.
    } { $year }
