# Tests des Katalogs: Name, wozu jeder dient und was er nicht sagen kann.

test-random = Zufall
    .purpose = Füllt den ganzen Speicher mit Zufallswörtern und liest sie zurück, dann dasselbe mit jedem Bit umgekehrt. Findet die meisten Fehler für seine Zeit.
    .limits = Seltene Kopplungen: jedes Zellenpaar trifft jede Wertekombination nur zufällig, Durchgang für Durchgang.

test-address-lines = Adressleitungen
    .purpose = Schreibt nacheinander Wörter, deren Adressen sich in einem Bit unterscheiden, und prüft, ob sich ein anderes änderte: Eine defekte Adressleitung oder eine falsche Speichergröße zeigt sich in einer Sekunde.
    .limits = Einige tausend Wörter: über die Zellen dazwischen sagt er nichts.

test-address-as-data = Adresse als Datum
    .purpose = Schreibt in jedes Wort seine eigene Adresse, dann von oben nach unten die umgekehrte: Zwei Adressen, die dieselbe Zelle erreichen, überschreiben einander.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-mats-plus = MATS+
    .purpose = Der kürzeste March-Test, der jede haftende Zelle und jede fehlgeleitete Adresse findet.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-march-c- = March C−
    .purpose = Geht die Adressen auf und ab und kehrt jede Zelle zweimal um. Findet Zellen, die haften, nicht wechseln oder eine andere stören.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-lane-groups = Leitungsgruppen
    .purpose = Treibt Gruppen von 1, 2, 4, 8, 16 und 32 Datenleitungen gegeneinander: Je zwei Leitungen eines Worts unterscheiden sich in einer der sechs, also zeigen sich Leitungen, die einander folgen oder stören.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-stripes = Streifen
    .purpose = Schachbrett, Zeilen und Spalten abwechselnd: jede Zelle zwischen Nachbarn mit entgegengesetztem Wert, wenn der Aufbau der übliche ist.
    .limits = Speichercontroller verwürfeln Daten und Adressen: Welche Zellen Nachbarn sind, ist unbekannt. Streifen kommen deshalb vielleicht nicht als Streifen an, ihre Umkehrungen schon.

test-crosstalk = Übersprechen
    .purpose = Alle Datenleitungen schalten von Wort zu Wort, bei DDR5 von Halbwort zu Halbwort, und eine dagegen: Für diese Leitung ist die Störung auf dem Bus so groß wie möglich. Acht Leitungen je Durchgang, alle in acht Durchgängen.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-row-hopping = Zeilensprung
    .purpose = Zufallswörter in einer Folge, die bei jedem Schritt eine andere Zeile öffnet: zeigt schwaches Auslesen und knappe Zeiten, die ein geordneter Durchlauf nie fordert.
    .limits = Jeder Schritt öffnet auf gewöhnlichen Rechnern eine andere Zeile der Bank; welche, ist unbekannt. Speicher, den das System in kleinen Stücken vergibt, wird Stück für Stück getestet, mit weniger Zeilen.

test-copies = versetzte Kopien
    .purpose = Kopiert eine Hälfte des Speichers um einige Wörter versetzt in die andere und prüft beide: Lesen und Schreiben gemischt wie bei gewöhnlicher Arbeit, sodass die Datenleitungen die Richtung wechseln, auch zwischen Rängen.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-march-lr = March LR
    .purpose = Ein längerer March-Test, der auch Kopplungen findet, die einander verbergen.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-march-ss = March SS
    .purpose = Der längste March-Test: findet jeden einfachen statischen Fehler einer oder zweier Zellen, auch zerstörendes Lesen und störendes Schreiben.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-walking = wandernde Eins
    .purpose = Eine einzelne Eins, dann eine einzelne Null, von Wort zu Wort auf einer anderen Datenleitung. Acht der 64 Anfangsleitungen je Durchgang, alle in acht Durchgängen.
    .limits = Fehler, die mehrere Zugriffe hintereinander, Wärme, Zeit oder Rechenlast brauchen.

test-computing = Rechnen unter Last
    .purpose = Die Hälfte der Kerne rechnet und vergleicht das Ergebnis Bit für Bit, während die anderen Zufallswörter schreiben und lesen: Caches und Speichercontroller bedienen beide, wie im Alltag.
    .limits = Eine leichte Last für das Netzteil. Ein falsches Ergebnis allein unterscheidet nicht zwischen Speicher und Prozessor.

test-load-steps = Last in Stufen
    .purpose = Die Hälfte der Kerne rechnet mit ihren breitesten Vektoren, alle zugleich, stetig und in Stößen von 10 µs bis 10 ms, während die anderen Zufallswörter schreiben und lesen: Netzteil und Speicher müssen jeder Stufe folgen.
    .limits = Ein falsches Ergebnis allein unterscheidet nicht zwischen Speicher und Prozessor. Wie weit die Spannung einbricht, wird nicht gemessen.

test-idle = Ruhe
    .purpose = Schreibt Zufallswörter, lässt den Speicher in Ruhe und liest; dann dasselbe umgekehrt. Findet Zellen, die ohne Zugriffe ihren Wert verlieren, und Fehler in Ruhezuständen.
    .limits = Das Auffrischen geht beim Warten weiter: Es zeigen sich nur Zellen, die ihren Wert kürzer halten als einen Auffrischabstand.

test-sleep = Schlaf
    .purpose = Schreibt Zufallswörter, lässt den Rechner minutenlang schlafen und liest; dann dasselbe umgekehrt. Findet Zellen, die ihren Wert verlieren, während der Speicher sich selbst auffrischt.
    .limits = Ein Rechner, der nicht wieder aufwacht, sagt nichts über seinen Speicher: Firmware oder Treiber sind wahrscheinlicher.

test-row-disturbance = Zeilenstörung
    .purpose = Öffnet 2 bis 20 Zeilen einer Bank abwechselnd, länger als ein Auffrischabstand, und prüft, ob irgendeine Zelle kippte. Manche Module überwachen weniger Zeilen.
    .limits = Je Runde werden nur 16 Gruppen von Zeilen versucht, und Module wehren sich auf Weisen, die niemand veröffentlicht. Ohne Adresskarte sind Nachbarn geraten. Fehlerfrei sagt hier fast nichts.
