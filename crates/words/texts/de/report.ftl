# Alle Wörter des Berichts auf Deutsch.

report-title = Bericht über den Arbeitsspeicher
report-made = Erstellt am { $when }
report-by = von { $technician }
report-machine = Rechner
report-owner = Besitzer
report-told = Beanstandung
report-changed = Vorher geändert
report-tried = Vorher versucht
report-said = Laut Besitzer
report-seen = Hier gesehen
report-job = Auftrag
report-simulated = Alles in diesem Bericht stammt von einem simulierten Rechner.
report-open-note = Die Arbeit ist nicht abgeschlossen; dies ist der Stand.
report-page = Seite { $page } von { $pages }

report-next = Was als Nächstes zu tun ist
report-sure = Wie sicher

report-verdict-module = Das Speichermodul { $module } ist defekt.
report-verdict-unfit = Das Speichermodul { $module } ist gut, aber unverträglich mit diesem Rechner.
report-verdict-slot = Der Steckplatz { $slot } der Hauptplatine ist defekt.
report-verdict-channel = Im Kanal { $channel } versagt jedes Modul: ein Kontakt im Prozessorsockel, eine Leitung der Hauptplatine oder der Speichercontroller.
report-verdict-too-many = Jedes Modul ist gut, aber es sind mehr, als dieser Rechner mit diesen Einstellungen betreibt.
report-verdict-position = Die Module sind gut; sie stecken in Steckplätzen, die mit diesen Einstellungen nicht arbeiten.
report-verdict-kits = Die Module stammen aus verschiedenen Sätzen. Jeder Satz ist gut, aber sie vertragen sich nicht.
report-verdict-no-part = Kein Teil ist defekt. Ein Modul saß nicht richtig, oder es war ein einmaliger Fehler.
report-verdict-combination = Das Modul { $module } arbeitet allein und versagt zusammen mit den anderen.
report-verdict-pair = Die Module { $module } und { $other } sind jedes für sich gut, vertragen sich aber nicht.
report-verdict-settings = Die Speichereinstellungen der Firmware sind zu schnell für diesen Rechner.
report-verdict-controller = Der Speichercontroller versagt: Er ist Teil des Prozessors und über die Hauptplatine angebunden.
report-verdict-two = Die Speichermodule { $module } und { $other } sind beide defekt.
report-verdict-module-slot = Das Speichermodul { $module } und der Steckplatz { $slot } sind beide defekt.
report-verdict-other = Der Speicher versagt, und kein einzelnes Teil erklärt es.
report-verdict-open = Eines von diesen: { $parts }.
report-verdict-alike = Wahrscheinlich { $part }. Bewiesen ist das nicht: Andere Ursachen hätten in diesen Läufen dasselbe gezeigt.
report-verdict-unproved = Wahrscheinlich { $part }. Bewiesen ist es nicht: Ohne dieses Teil war kein Lauf möglich.
report-verdict-going-on = Noch nicht entschieden. Am verdächtigsten bisher: { $part }.
report-verdict-clean = In dem, was getestet wurde, kam kein Fehler. Das schließt Fehler aus, die sich oft zeigen, seltene nicht.
report-verdict-nothing = Es wurde noch nichts getestet.
report-verdict-unfinished = Es kam kein Fehler, aber kein Lauf war vollständig und lang genug, um etwas auszuschließen.
report-verdict-not-whole = Aufzeichnungen dieses Auftrags sind beschädigt; dass kein Fehler bekannt ist, beweist nichts.
report-record-lost = { $count ->
    [one] Die Aufzeichnung eines Laufs oder dieses Auftrags ist beschädigt oder fehlt. Was in ihr stand, fehlt in diesem Bericht.
   *[other] { $count } Aufzeichnungen dieses Auftrags sind beschädigt oder fehlen. Was in ihnen stand, fehlt in diesem Bericht.
}
report-verdict-believe = Die Selbstprüfung des Programms ist fehlgeschlagen. Das Ergebnis ist ungültig.



report-because = Denn
report-why-alone = { $failed ->
    [one] Ein Lauf damit schlug fehl
   *[other] { $failed } Läufe damit schlugen fehl
  }, und ohne dieses Teil gab es nichts, was laufen konnte.
report-clean-worth = { $runs ->
    [one] Der fehlerfreie Lauf, der am meisten sagt, dauerte
   *[other] Die { $runs } fehlerfreien Läufe mit denselben Modulen, Einstellungen und Tests, die am meisten sagen, dauerten zusammen
  } { $time } und { $passes ->
    [one] einen vollen Durchgang
   *[other] { $passes } volle Durchgänge
  }. Mit 95 % Sicherheit sind ausgeschlossen: zufällige Fehler, die häufiger als einmal in { $interval } kommen, und Fehler, die sich in mehr als { $percent } % der Durchgänge zeigen. Seltenere Fehler sind nicht ausgeschlossen.

report-do-going-on = Der nächste Schritt: { $step }.
report-do-clean-next = Bleibt die Beanstandung, in dieser Reihenfolge prüfen: { $list }.
report-do-nothing = Es ist nichts mehr zu tun.
report-do-begin = Alle Module zusammen testen, mit allen Tests.

report-next-run = { $fitting }, { $time } lang

report-ordered = Was bestellt wurde
report-order = Was zu bestellen ist

report-course = Verlauf des Auftrags
report-col-date = Datum
report-col-stage = Stand
report-story = Läufe und Ergebnisse
report-story-none = Es gab keinen Lauf.
report-col-run = Lauf
report-col-when = begonnen
report-col-fitted = Bestückung
report-col-settings = Einstellungen
report-col-long = Dauer
report-col-passes = volle Durchgänge
report-col-result = Ergebnis
report-fitted-in = { $module } in { $slot }
report-in-slots = { $told } ({ $slots })
report-times = { $count } × { $result }
report-struck-out = { $result } (ausgenommen: { $reason })
report-doubtful-clock = { $when } (die Uhr dieses Rechners ging falsch)

report-modules = Die Module
report-col-module = Modul
report-col-kind = Typ
report-col-size = Größe
report-col-serial = Seriennummer
report-col-outcome = Verbleib
report-end-unknown = nicht entschieden
report-end-keep-out = lief fehlerfrei; am Ende nicht eingebaut
report-end-not-at-fault-out = nicht die Ursache; am Ende nicht eingebaut
report-good = als gut bekannt
report-unnamed = ohne Seriennummer

report-where = Wo die Fehler sind
report-where-words = Fehlermuster: { $shape } in { $slots }{ $lanes }.
report-certainty-certain = Zuordnung zu Steckplätzen: sicher.
report-certainty-told = Zuordnung zu Steckplätzen: nach den Registern des Speichercontrollers, was bisher keine echte Hauptplatine bestätigt hat.
report-certainty-assumed = Zuordnung zu Steckplätzen: nach einer Adresskarte, die noch kein Lauf bestätigt hat.
report-certainty-one-of = Es ist einer dieser Steckplätze; welcher, ist nicht bekannt.
report-certainty-unknown = Der Steckplatz ist nicht bekannt.
report-shape-several = Eines von diesen: { $shapes }

report-files = Folgen für Dateien
report-files-words = Solange der Speicher defekt war, kann sich alles unbemerkt geändert haben, was durch ihn ging: gespeicherte Dokumente, installierte Programme, Kopien und Sicherungen. Mit älteren Sicherungen vergleichen. Die Systemdateien prüfen. Dateien, die nur gelesen wurden, sind nicht betroffen.

report-detail = Einzelheiten
report-tested = Getestet
report-tested-words = { $bytes } von { $fitted } getestet ({ $percent } %).
report-tested-unknown = { $bytes } getestet; wie viel eingebaut ist, ist nicht bekannt.
report-never = Nie getestet
report-never-rest = { $bytes } des Speichers: { $reason }.
report-never-computing = Speicher unter Rechenlast: Kein Lauf hatte diese Last.
report-never-overnight = Fehler, die für die Zeit dieser Läufe zu selten sind.
report-never-modules = Diese Module waren in keinem Lauf, der fertig wurde: { $modules }.
report-never-hot = Heißer Speicher: Keine Temperatur wurde gemeldet.
report-loads-both = Abgedeckt: Prüfmuster und Rechenlast.
report-loads-patterns = Abgedeckt: Prüfmuster. Nicht abgedeckt: Rechenlast.
report-clock-steady = Takt des Prozessors beim Rechnen: { $clock } GHz.
report-clock-range = Takt des Prozessors beim Rechnen: { $lowest } bis { $highest } GHz.
report-hottest = Höchste Temperatur der Module: { $celsius } °C.
report-order-from = March-Tests finden Kopplungen zwischen Zellen, die mindestens { $bytes } auseinander liegen. Nähere können unbemerkt bleiben.
report-order-of-shares = Mehrere Kerne teilten sich den Speicher: Kopplungen zwischen Zellen verschiedener Teile können unbemerkt bleiben.
report-rows-by-map = Der Test auf Zeilenstörung öffnete bis zu { $rows } Zeilen einer Bank abwechselnd, jede mindestens { $openings }-mal in 64 ms. Die Adresskarte nannte die Zeilen.
report-rows-by-timing = Der Test auf Zeilenstörung öffnete bis zu { $rows } Zeilen einer Bank abwechselnd, jede mindestens { $openings }-mal in 64 ms. Langsamere Zugriffe verrieten die Zeilen: Nachbarn sind wahrscheinlich, nicht sicher.
report-rows-guessed = Der Test auf Zeilenstörung las bis zu { $rows } Wörter abwechselnd, in Abständen, in denen Zeilen einer Bank oft liegen. Ob er Zeilen öffnete, ist nicht bekannt.
report-tests = Tests des Laufs { $run }
report-col-test = Test
report-col-finished = fertige Durchgänge
report-col-wrong = Fehler
report-col-swept = Datenmenge
report-chart-errors = Fehler über die Zeit, Lauf { $run }
report-chart-errors-heat = Fehler über die Zeit (Balken) und Temperatur (Linie), Lauf { $run }
report-chart-grid = Tests und Durchgänge, Lauf { $run }
report-chart-after = Die Platine in Lauf { $run }, der fehlerfrei war
report-chart-board = Die Platine in Lauf { $run }
report-axis-minutes = Minuten
report-axis-words = Fehler
report-axis-celsius = °C

report-logged = Protokolle des Systems auf diesem Rechner
report-logged-more = Und { $count ->
    [one] ein weiterer Eintrag.
   *[other] { $count } weitere.
  }
report-col-last = zuletzt
report-col-logged = Eintrag
report-col-count = Anzahl
report-col-slot = Steckplatz
report-col-address = Adresse

report-kept = Grundlage
report-kept-words = Programm { $program }. Der Bericht folgt aus den Aufzeichnungen der unten genannten Läufe; ihre Prüfsumme (SHA-256) ist { $sum }. Dieselben Aufzeichnungen ergeben dieselbe Prüfsumme.
report-kept-unread = Programm { $program }. Die Aufzeichnungen der unten genannten Läufe sind zurzeit nicht alle lesbar: Der Bericht folgt aus dem, was das Programm im Speicher hatte, und hat keine Prüfsumme, um sie zu vergleichen.
report-signed = Dieser Bericht nennt, was gemessen wurde und was daraus folgt, jeweils mit seiner Sicherheit. Er ist keine Gewähr für ein Teil.

report-speed = Wie schnell der Speicher ist
report-speed-guest = Gemessen in einer virtuellen Maschine: Daraus wird nichts geschlossen.
report-speed-small = Lesen mit allen Kernen aus Mengen, die kein Cache fasst; Zeit eines einzelnen Lesens in zufälliger Folge.
report-col-measured = gemessen
report-col-speeds = eingebaut, MT/s
report-col-read = Lesen
report-col-latency = ein Zugriff

report-speed-simulated = { $machine }, simuliert
report-speed-processor = Prozessor
report-speed-caches = Caches
report-speed-repeats = Wiederholungen
report-speed-large-pages = Große Seiten
report-speed-large-share = { $percent } % des Gemessenen
report-speed-does = Leistung des Speichers
report-speed-table-note = Arbeitsmengen, die kein Cache fasst; in Klammern der kleinste und der größte Wert aller Wiederholungen. Ein kopiertes Byte zählt einmal.
report-speed-charts = Diagramme
report-speed-each-once = { $repeats }, jede Schleife einmal, bevor eine wiederkommt
report-speed-stopped = { $repeats }, vorher angehalten
report-speed-shared = { $cache } für { $cores } Kerne
report-speed-compared = verglichen
report-speed-spread = { $value } ({ $low } bis { $high })
report-speed-expected =
  { $channels ->
    [one] Ein Kanal
   *[other] { $channels } Kanäle
  } mit { $speed } MT/s: theoretische Spitze { $rate }.{ $ns ->
    [none] {""}
   *[other] {" "}Kleinstmögliche Latenz { $ns } ns (nur Zeiten des Speichers, bei Grundrate).
  }
report-board-shows = Was die Hauptplatine zeigt
report-notes = Notizen
report-started = startete
report-no-start = startete nicht
report-declared = Nichts in diesem Rechner nennt seine Steckplätze und Module: Sie sind so, wie sie angegeben wurden.
report-narrowed-down = eingegrenzt
