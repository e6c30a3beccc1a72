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
report-do-clean-next = Bleibt der Ärger, der Reihe nach ansehen: { $list }.
report-do-begin = Alle Module zusammen laufen lassen, mit allen Tests.

report-next-run = { $fitting }, { $time } lang

report-order = Was zu bestellen ist

report-story = Was versucht wurde, und was es zeigte
report-story-none = Es gab keinen Lauf.
report-col-run = Lauf
report-col-when = wann
report-col-fitted = was bestückt war
report-col-settings = Einstellungen
report-col-long = wie lange
report-col-passes = Durchg.
report-col-result = was es zeigte
report-fitted-in = { $module } in { $slot }
report-in-slots = { $told } ({ $slots })
report-times = { $count } × { $result }
report-struck-out = { $result } (zählt nicht: { $reason })
report-doubtful-clock = { $when } (die Uhr dieses Rechners ging falsch)

report-modules = Die Module
report-col-module = Modul
report-col-kind = Art
report-col-size = Größe
report-col-serial = Seriennummer
report-col-outcome = was daraus wird
report-end-unknown = nicht entschieden
report-good = als gut bekannt
report-unnamed = ohne Seriennummer

report-where = Wo es versagte
report-where-words = Fehlermuster: { $shape } in { $slots }{ $lanes ->
    [none] {""}
   *[other] , Datenleitung { $lanes }
  }.
report-certainty-certain = Der Platz ist sicher: ein anderer kommt nicht in Frage.
report-certainty-assumed = Der Platz folgt aus einer Adresskarte, die noch nichts bestätigt hat.
report-certainty-one-of = Es ist einer dieser Plätze; welcher, ist nicht bekannt.
report-certainty-unknown = Welcher Platz es ist, lässt sich nicht sagen.
report-shape-several = Nicht klar, welches davon: { $shapes }

report-files = Was das für Dateien bedeutet
report-files-words = Solange der Speicher Fehler machte, kann alles, was durch ihn ging, unbemerkt verändert worden sein: gespeicherte Dokumente, installierte Programme, Kopien und Sicherungen. Mit älteren Sicherungen vergleichen. Die Dateien des Systems prüfen. Was nur gelesen und nie zurückgeschrieben wurde, ist nicht betroffen.

report-detail = Im Einzelnen
report-tested = Was geprüft wurde
report-tested-words = Höchstens { $bytes } von { $fitted } wurden zugleich geprüft, { $percent } %.
report-tested-unknown = Höchstens { $bytes } wurden zugleich geprüft; wie viel eingebaut ist, ist nicht bekannt.
report-never = Was nie geprüft wurde
report-never-rest = { $bytes } des Speichers: { $reason }.
report-never-computing = Der Speicher, während der Prozessor hart rechnet: kein Lauf hatte diese Last.
report-never-overnight = Fehler, die sich so selten zeigen, dass die Zeit dieser Läufe sie nicht ausschließt.
report-never-modules = Diese Module, in keinem Lauf, der fertig wurde: { $modules }.
report-never-hot = Wie es sich verhält, wenn es heiß ist: keine Temperatur war zu lesen.
report-loads-both = Die Läufe hatten Prüfmuster und Rechenlast.
report-loads-patterns = Die Läufe hatten Prüfmuster, keine Rechenlast.
report-hottest = Die Module wurden höchstens { $celsius } °C warm.
report-order-from = March-Tests finden Kopplungen zwischen Zellen, die mindestens { $bytes } auseinander liegen. Nähere können unbemerkt bleiben.
report-order-of-shares = Mehrere Kerne prüften je einen Teil: Kopplungen zwischen Zellen verschiedener Teile können unbemerkt bleiben.
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

report-kept = Woher das kommt
report-kept-words = Programm { $program }. Der Bericht folgt aus den Journalen der unten genannten Läufe; ihre Prüfsumme (SHA-256) ist { $sum }. Dieselben Journale ergeben dieselbe Prüfsumme.
report-signed = Dieser Bericht sagt, was gemessen wurde und was daraus mit der daneben stehenden Sicherheit folgt. Er ist keine Gewähr für irgendein Teil.

report-speed = Wie schnell der Speicher ist
report-speed-guest = Gemessen wurde in einer virtuellen Maschine; daraus wird nichts geschlossen.
report-speed-small = Lesen mit allen Kernen, was kein Zwischenspeicher fasst; die Zeit eines einzelnen Lesens in zufälliger Folge.
report-col-measured = gemessen
report-col-speeds = bestückt, MT/s
report-col-read = Lesen
report-col-latency = einzeln

report-speed-simulated = { $machine }, simuliert
report-speed-processor = Prozessor
report-speed-caches = Caches
report-speed-repeats = Wiederholungen
report-speed-large-pages = Große Seiten
report-speed-large-share = { $percent } % des Gemessenen
report-speed-does = Was der Speicher leistet
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
  } mit { $speed } MT/s könnten { $rate } leisten.{ $ns ->
    [none] {""}
   *[other] {" "}Ein Wort einer anderen Zeile braucht nach den Zeiten der Module bei ihrer Grundrate mindestens { $ns } ns, dazu den Weg zum Prozessor und zurück.
  }
