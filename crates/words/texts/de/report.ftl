# Alle Wörter des Berichts auf Deutsch.

report-title = Bericht über den Arbeitsspeicher
report-made = Erstellt am { $when }
report-by = von { $technician }
report-machine = Rechner
report-owner = Besitzer
report-told = Beanstandung
report-changed = Vorher geändert
report-tried = Vorher versucht
report-job = Auftrag
report-simulated = Alles in diesem Bericht stammt von einem simulierten Rechner.
report-open-note = Die Arbeit ist nicht abgeschlossen: so weit ist sie.
report-page = Seite { $page } von { $pages }

report-next = Was als Nächstes zu tun ist
report-sure = Wie sicher

report-verdict-module = Das Speichermodul { $module } ist defekt.
report-verdict-unfit = Das Speichermodul { $module } ist gut, aber unverträglich mit diesem Rechner.
report-verdict-slot = Der Speicherplatz { $slot } der Hauptplatine ist defekt.
report-verdict-no-part = Kein Teil ist defekt. Ein Modul saß nicht richtig, oder es war ein einmaliger Fehler.
report-verdict-combination = Das Modul { $module } arbeitet allein und versagt zusammen mit den anderen.
report-verdict-pair = Die Module { $module } und { $other } sind jedes für sich gut, vertragen sich aber nicht.
report-verdict-settings = Die Speichereinstellungen der Firmware sind zu schnell für diesen Rechner.
report-verdict-controller = Die Speichersteuerung versagt: sie ist Teil des Prozessors und über die Hauptplatine angebunden.
report-verdict-two = Die Speichermodule { $module } und { $other } sind beide defekt.
report-verdict-module-slot = Das Speichermodul { $module } und der Platz { $slot } sind beide defekt.
report-verdict-other = Der Speicher macht Fehler, und kein einzelnes Teil erklärt sie.
report-verdict-open = Eines von diesen: { $parts }.
report-verdict-unproved = Wahrscheinlich { $part }. Bewiesen ist es nicht: ohne dieses Teil konnte nichts laufen.
report-verdict-going-on = Noch nicht entschieden. Am ehesten bisher: { $part }.
report-verdict-clean = In dem, was geprüft wurde, kam kein Fehler. Das beweist nicht, dass alles in Ordnung ist: es schließt Fehler aus, die sich oft zeigen.
report-verdict-nothing = Es wurde noch nichts geprüft.
report-verdict-unfinished = Es kam kein Fehler, aber kein Lauf war vollständig und lang genug, um etwas auszuschließen.
report-verdict-not-whole = Aufzeichnungen dieses Auftrags sind beschädigt: dass kein Fehler bekannt ist, beweist nichts.
report-record-lost = { $count ->
    [one] Die Aufzeichnung eines Laufs oder dieses Auftrags ist beschädigt oder fehlt. Was in ihr stand, fehlt in diesem Bericht.
   *[other] { $count } Aufzeichnungen dieses Auftrags sind beschädigt oder fehlen. Was in ihnen stand, fehlt in diesem Bericht.
}
report-verdict-believe = Die Selbstprüfung des Programms ist fehlgeschlagen. Das Ergebnis ist ungültig.

report-part-module = das Modul { $module }
report-part-unfit = das Modul { $module }, gut, aber unverträglich mit diesem Rechner
report-part-slot = der Platz { $slot }
report-part-no-part = schlechter Kontakt im Steckplatz oder ein einmaliger Fehler
report-part-combination = { $module } zusammen mit anderen
report-part-pair = { $module } und { $other } zusammen
report-part-settings = die Speichereinstellungen
report-part-controller = Hauptplatine oder Prozessor
report-part-two = die Module { $module } und { $other }
report-part-module-slot = das Modul { $module } und der Platz { $slot }
report-part-other = etwas anderes

report-band-095 = sehr wahrscheinlich
report-band-050 = wahrscheinlich
report-band-005 = möglich
report-band-000 = unwahrscheinlich

report-why-with = { $failed ->
    [one] Ein Lauf damit schlug fehl
   *[other] { $failed } Läufe damit schlugen fehl
  }; ohne lief der Rest fehlerfrei{ $passes ->
    [0] .
    [1] , am längsten einen vollen Durchgang.
   *[other] , am längsten { $passes } volle Durchgänge.
  }
report-why-alone = { $failed ->
    [one] Ein Lauf damit schlug fehl
   *[other] { $failed } Läufe damit schlugen fehl
  }, und ohne dieses Teil gab es nichts, was laufen konnte.
report-why-beside = { $failed ->
    [one] Ein Lauf damit neben anderen schlug fehl
   *[other] { $failed } Läufe damit neben anderen schlugen fehl
  }; allein und ohne lief es fehlerfrei{ $passes ->
    [0] .
    [1] , am längsten einen vollen Durchgang.
   *[other] , am längsten { $passes } volle Durchgänge.
  }
report-why-touched = Nachdem die Module herausgenommen und wieder eingesetzt waren, lief es fehlerfrei, bestückt wie zu Anfang.
report-why-settings = Mit den schnellen Einstellungen schlug es fehl, mit den Standardeinstellungen lief es fehlerfrei.
report-why-best = Das erklärt, was die Läufe zeigten, besser als jedes Modul und jeder Platz.
report-clean-worth = { $runs ->
    [one] Der fehlerfreie Lauf, der am meisten sagt, dauerte
   *[other] Die { $runs } fehlerfreien Läufe mit denselben Modulen, Einstellungen und Tests, die am meisten sagen, dauerten zusammen
  } { $time } und { $passes ->
    [one] einen vollen Durchgang
   *[other] { $passes } volle Durchgänge
  }. Mit 95 % Sicherheit sind ausgeschlossen: zufällige Fehler, die häufiger als einmal in { $interval } kommen, und Fehler, die sich in mehr als { $percent } % der Durchgänge zeigen. Seltenere Fehler sind nicht ausgeschlossen.

report-do-replace = Das Modul ersetzen; die Bestellung steht unten.
report-do-elsewhere = Vor dem Entsorgen in einem anderen Rechner testen. Läuft es dort fehlerfrei, ist es gut, aber unverträglich mit diesem.
report-do-use-elsewhere = In einem anderen Rechner verwenden. Manchmal genügt es, die Vorgaben der Firmware zu laden und sie zu aktualisieren.
report-do-combination = Ersetzen, am besten durch eines mit derselben Teilenummer wie die anderen; vorher die Vorgaben der Firmware laden und sie aktualisieren.
report-do-pair = Eines der beiden behalten, das andere anderswo verwenden. Die Teilenummer des bleibenden Moduls kaufen oder einen abgestimmten Satz.
report-do-slot = Den Platz reinigen und seine Kontakte ansehen. Versagt er weiter, bleibt er leer, oder die Hauptplatine wird ersetzt.
report-do-module-slot = Das Modul ersetzen; den Platz leer lassen oder die Hauptplatine ersetzen.
report-do-settings = Die schnellen Einstellungen ausgeschaltet lassen. Wurde für ihre Geschwindigkeit bezahlt: Firmware aktualisieren, dann noch einmal über Nacht versuchen.
report-do-no-part = Nichts kaufen. Über Nacht testen: ein Kontakt kann sich wieder lösen.
report-do-controller = Vorgaben der Firmware laden, sie aktualisieren, Sitz und Kühler des Prozessors ansehen; die Module in einem anderen Rechner versuchen, bevor Hauptplatine oder Prozessor beschuldigt werden.
report-do-other = Jenseits des Speichers suchen: Netzteil, Wärme, Laufwerke.
report-do-open-good = Ein bekannt gutes Modul derselben Art der Reihe nach an die Stelle jedes Moduls setzen: das entscheidet.
report-do-open-set = Module, die allein fehlerfrei sind und zusammen versagen, werden durch einen abgestimmten Satz ersetzt.
report-do-going-on = Der nächste Schritt: { $step }.
report-do-files = Daten sichern und Dateien prüfen: was geschrieben wurde, während der Speicher Fehler machte, kann beschädigt sein.
report-do-proof = Danach laufen alle Module noch einmal zusammen, mit Rechenlast{ $time ->
    [none] .
    [once] . Es schlug vorher nur einmal fehl: ein fehlerfreier Lauf allein beweist dann nicht, dass die Reparatur geholfen hat.
   *[other] ; { $time } ohne Fehler zeigen mit 95 % Sicherheit, dass es geholfen hat.
  }
report-do-clean-next = Bleibt der Ärger, der Reihe nach ansehen: Aktualisierungen des Systems; die Prüfung der Systemdateien; Treiber; die Firmware; Laufwerke und ihre Kabel; eine frische Installation; dann noch einmal den Speicher, über Nacht und unter Rechenlast.
report-do-begin = Alle Module zusammen laufen lassen, mit allen Tests.

report-next-run = { $fitting }, { $time } lang

report-order = Was zu bestellen ist
report-order-module = { $kind }, { $size }{ $speed ->
    [none] {""}
   *[other] , { $speed } MT/s
  }{ $ranks ->
    [none] {""}
    [one] , 1 Rank
   *[other] , { $ranks } Ranks
  }{ $timings ->
    [none] {""}
   *[other] , Zeiten { $timings } oder niedriger
  }, { $ecc ->
    [yes] mit ECC
   *[no] ohne ECC
  }
report-order-part = Am besten die gleiche Teilenummer: { $part }.
report-order-beside = Es muss neben Module derselben Art passen; gibt es sie nicht mehr, einen abgestimmten Satz nehmen.
report-order-new = Lieber neu als gebraucht. Nicht mischen: registrierte mit ungepufferten, ECC mit Modulen ohne ECC.
report-order-board = In der Speicherliste (QVL) der { $board } nachsehen.

report-story = Was versucht wurde, und was es zeigte
report-story-none = Es gab keinen Lauf.
report-col-run = Lauf
report-col-when = wann
report-col-fitted = was bestückt war
report-col-settings = Einstellungen
report-col-long = wie lange
report-col-passes = volle Durchgänge
report-col-result = was es zeigte
report-fitted-in = { $module } in { $slot }
report-told-void = Selbsttest fehlgeschlagen: Ergebnis ungültig
report-told-errors = { $count ->
    [one] { $shown } Speicherfehler
   *[other] { $shown } Speicherfehler
  }
report-told-uncorrectable = { $count ->
    [one] { $shown } nicht korrigierbarer Hardwarefehler
   *[other] { $shown } nicht korrigierbare Hardwarefehler
  }
report-told-miscalculated = Falsch gerechnet: { $count ->
    [one] { $shown } Zahl
   *[other] { $shown } Zahlen
  }
report-told-corrected = Nur korrigierte Fehler: { $shown }
report-told-clean = Fehlerfrei
report-told-clean-so-far = Bisher fehlerfrei: { $progress }
report-told-no-full-pass = Nichts gefunden, aber kein voller Durchgang
report-told-nothing-tested = Nichts gefunden, aber kein Speicher blieb im Test
report-told-not-whole = Aufzeichnung beschädigt: im Rest wurde nichts gefunden
report-record-damaged = { $told }, Aufzeichnung beschädigt
report-progress-first = erster Durchgang nicht beendet
report-progress-passes = { $count ->
    [one] { $shown } Durchgang
   *[other] { $shown } Durchgänge
  }
report-progress-passes-of = { $done } von { $planned } Durchgängen
report-progress-time-of = { $done } von { $planned }
report-in-place = { $told } in { $place }
report-in-places = { $told } an { $places } Stellen
report-in-slots = { $told } ({ $slots })
report-on-part = { $told } auf { $tested } von { $whole }
report-on-unknown = { $told } auf { $tested }, eingebauter Speicher unbekannt
report-ended-plan = { $told }, alle Durchgänge beendet
report-ended-time = { $told }, die Zeit war um
report-ended-error-limit = { $told }, an der Fehlergrenze angehalten
report-ended-hand = { $told }, von Hand angehalten
report-ended-broke-off = { $told }, abgerissen durch Stromausfall, Stillstand oder Neustart
report-unproved = { $told }, ohne Selbsttest
report-shown-again = Wieder gezeigt: { $told }
report-not-shown-again = Nicht wieder gezeigt: { $told }
report-times = { $count } × { $result }
report-struck-out = { $result } (zählt nicht: { $reason })
report-doubtful-clock = { $when } (die Uhr dieses Rechners ging falsch)

report-modules = Die Module
report-col-module = Modul
report-col-kind = Art
report-col-size = Größe
report-col-serial = Seriennummer
report-col-outcome = was daraus wird
report-end-replace = zu ersetzen
report-end-elsewhere = gut, anderswo zu verwenden
report-end-in-question = fraglich
report-end-keep = lief fehlerfrei, bleibt
report-end-untested = nicht geprüft
report-end-unknown = nicht entschieden
report-good = als gut bekannt
report-unnamed = ohne Seriennummer

report-where = Wo es versagte
report-where-words = { $shape } in { $slots }{ $lanes ->
    [none] {""}
   *[other] , Datenleitung { $lanes }
  }.
report-certainty-certain = Der Platz ist sicher: ein anderer kommt nicht in Frage.
report-certainty-assumed = Der Platz folgt aus einer Adresskarte, die noch nichts bestätigt hat.
report-certainty-one-of = Es ist einer dieser Plätze; welcher, ist nicht bekannt.
report-certainty-unknown = Welcher Platz es ist, lässt sich nicht sagen.
report-shape-cell = Eine Zelle
report-shape-column = Zellen einer Spalte
report-shape-row = Zellen einer Zeile
report-shape-bank = Zellen einer ganzen Bank
report-shape-lane = Eine Datenleitung, überall
report-shape-lane-pair = Zwei Datenleitungen
report-shape-byte-lane = Eine Byteleitung
report-shape-address-line = Wörter, bei denen ein Adressbit einen Wert hat
report-shape-half-module = Ein Rank eines Moduls
report-shape-whole-module = Ein ganzes Modul
report-shape-channel = Alle Plätze eines Kanals
report-shape-decoder-doubles = Wörter, die zu zweit kommen, ein Adressbit auseinander
report-shape-scattered = Einzelne Bits hier und da
report-shape-machine = Alles, in jedem Kanal
report-shape-several = Nicht klar, welches davon: { $shapes }

report-files = Was das für Dateien bedeutet
report-files-words = Solange der Speicher Fehler machte, kann alles, was durch ihn ging, unbemerkt verändert worden sein: gespeicherte Dokumente, installierte Programme, Kopien und Sicherungen. Mit älteren Sicherungen vergleichen. Die Dateien des Systems prüfen. Was nur gelesen und nie zurückgeschrieben wurde, ist nicht betroffen.

report-detail = Im Einzelnen
report-tested = Was geprüft wurde
report-tested-words = Höchstens { $bytes } von { $fitted } wurden zugleich geprüft, { $percent } %.
report-tested-unknown = Höchstens { $bytes } wurden zugleich geprüft; wie viel eingebaut ist, ist nicht bekannt.
report-never = Was nie geprüft wurde
report-never-rest = { $reason ->
    [chosen] { $bytes } des Speichers: nach Wahl ausgelassen.
    [firmware] { $bytes } des Speichers: von der Firmware belegt.
    [running-system] { $bytes } des Speichers: vom laufenden System belegt.
    [moved] { $bytes } des Speichers: die Seiten wurden während des Tests verschoben.
    [taken-out] { $bytes } des Speichers: nach einem Hardwarefehler herausgenommen.
   *[other] { $bytes } des Speichers: nicht jeder Test wurde darauf beendet.
  }
report-never-computing = Der Speicher, während der Prozessor hart rechnet: kein Lauf hatte diese Last.
report-never-overnight = Fehler, die sich so selten zeigen, dass die Zeit dieser Läufe sie nicht ausschließt.
report-never-modules = Diese Module, in keinem Lauf, der fertig wurde: { $modules }.
report-never-hot = Wie es sich verhält, wenn es heiß ist: keine Temperatur war zu lesen.
report-loads-both = Die Läufe hatten Prüfmuster und Rechenlast.
report-loads-patterns = Die Läufe hatten Prüfmuster, keine Rechenlast.
report-hottest = Die Module wurden höchstens { $celsius } °C warm.
report-order-from = March-Tests finden Kopplungen zwischen Zellen, die mindestens { $bytes } auseinander liegen. Nähere können unbemerkt bleiben.
report-order-of-shares = Mehrere Kerne prüften je einen Teil: Kopplungen zwischen Zellen verschiedener Teile können unbemerkt bleiben.
report-heat-only-from = Fehler kamen erst ab { $from } °C: Der Fehler zeigt sich, wenn es warm ist.
report-heat-no-difference = Von { $from } bis { $to } °C änderte Wärme nichts an den Fehlern.
report-rows-by-map = Der Test auf Zeilenstörung öffnete bis zu { $rows } Zeilen einer Bank abwechselnd, jede mindestens { $openings }-mal in 64 ms. Die Adresskarte nannte die Zeilen.
report-rows-by-timing = Der Test auf Zeilenstörung öffnete bis zu { $rows } Zeilen einer Bank abwechselnd, jede mindestens { $openings }-mal in 64 ms. Langsamere Zugriffe verrieten die Zeilen: Nachbarn sind wahrscheinlich, nicht sicher.
report-rows-guessed = Der Test auf Zeilenstörung las bis zu { $rows } Wörter abwechselnd, in Abständen, in denen Zeilen einer Bank oft liegen. Ob er Zeilen öffnete, ist nicht bekannt.
report-tests = Tests des Laufs { $run }
report-col-test = Test
report-col-finished = fertige Durchgänge
report-col-wrong = falsche Wörter
report-col-swept = überstrichener Speicher
report-chart-errors = Falsche Wörter über die Zeit, Lauf { $run }
report-chart-errors-heat = Falsche Wörter über die Zeit (Balken) und Temperatur (Linie), Lauf { $run }
report-chart-grid = Tests und Durchgänge, Lauf { $run }
report-chart-board = Die Platine in Lauf { $run }
report-axis-minutes = Minuten
report-axis-words = falsche Wörter
report-axis-celsius = °C

report-logged = Was das System des Rechners selbst vermerkt hatte
report-logged-more = Und { $count ->
    [one] ein weiterer Eintrag.
   *[other] { $count } weitere.
  }
report-col-last = zuletzt
report-col-logged = was
report-col-count = Anzahl
report-col-slot = Steckplatz
report-col-address = Adresse
report-log-uncorrected = Speicherfehler, nicht korrigiert
report-log-check-found = Speicherprüfung des Systems fand Fehler
report-log-page-retired = ein Stück Speicher wurde stillgelegt
report-log-corrected = Speicherfehler, korrigiert
report-log-machine-check = der Prozessor meldete einen Fehler
report-log-stop-screen = das System hielt mit einer Meldung an
report-log-check-clean = Speicherprüfung des Systems fand nichts

report-kept = Woher das kommt
report-kept-words = Programm { $program }. Der Bericht folgt aus den Journalen der unten genannten Läufe; ihre Prüfsumme (SHA-256) ist { $sum }. Dieselben Journale ergeben dieselbe Prüfsumme.
report-signed = Dieser Bericht sagt, was gemessen wurde und was daraus mit der daneben stehenden Sicherheit folgt. Er ist keine Gewähr für irgendein Teil.

report-speed = Wie schnell der Speicher ist
report-speed-one-channel = Der Speicher schaffte { $rate }, { $share } dessen, was { $channels } Kanäle leisten: Alle Module teilen sich einen Kanal. Eines davon gehört nach { $free }.
report-speed-lost-channel = Der Speicher schaffte { $rate }, { $share } dessen, was { $channels } Kanäle leisten, obwohl in jedem ein Modul steckt: Ein Kanal ist vielleicht ausgefallen.
report-speed-profile-off = Der Speicher schaffte { $rate }, wie bei { $speed } MT/s zu erwarten. Verkauft werden die Module für { $sold } MT/s: Ihr Profil ist ausgeschaltet. Eingeschaltet ist es schneller und muss erneut geprüft werden.
report-speed-profile-stored = Der Speicher schaffte { $rate }, wie bei { $speed } MT/s zu erwarten. In den Modulen ist ein schnelleres Profil hinterlegt, das ausgeschaltet ist. Eingeschaltet muss es erneut geprüft werden.
report-speed-tables = Der Speicher schaffte { $rate }, mehr als die Tabellen der Firmware bei { $speed } MT/s zulassen: Sie sind falsch.
report-speed-guest = Gemessen wurde in einer virtuellen Maschine; daraus wird nichts geschlossen.
report-speed-small = Lesen mit allen Kernen, was kein Zwischenspeicher fasst; die Zeit eines einzelnen Lesens in zufälliger Folge.
report-half = etwa die Hälfte
report-col-measured = gemessen
report-col-speeds = bestückt, MT/s
report-col-read = Lesen
report-col-latency = einzeln
