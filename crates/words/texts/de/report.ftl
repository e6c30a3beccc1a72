# Alle Wörter des Berichts auf Deutsch.

report = Bericht über den Arbeitsspeicher
made = Erstellt am { $when }
by = von { $technician }
machine = Rechner
owner = Besitzer
told = Beanstandung
changed = Vorher geändert
tried = Vorher versucht
job = Auftrag
simulated = Alles in diesem Bericht stammt von einem simulierten Rechner.
open-note = Die Arbeit ist nicht abgeschlossen: so weit ist sie.
page = Seite { $page } von { $pages }

next = Was als Nächstes zu tun ist
sure = Wie sicher

verdict-module = Das Speichermodul { $module } ist defekt.
verdict-unfit = Das Speichermodul { $module } ist gut, aber unverträglich mit diesem Rechner.
verdict-slot = Der Speicherplatz { $slot } der Hauptplatine ist defekt.
verdict-no-part = Kein Teil ist defekt. Ein Modul saß nicht richtig, oder es war ein einmaliger Fehler.
verdict-combination = Das Modul { $module } arbeitet allein und versagt zusammen mit den anderen.
verdict-pair = Die Module { $module } und { $other } sind jedes für sich gut, vertragen sich aber nicht.
verdict-settings = Die Speichereinstellungen der Firmware sind zu schnell für diesen Rechner.
verdict-controller = Die Speichersteuerung versagt: sie ist Teil des Prozessors und über die Hauptplatine angebunden.
verdict-two = Die Speichermodule { $module } und { $other } sind beide defekt.
verdict-module-slot = Das Speichermodul { $module } und der Platz { $slot } sind beide defekt.
verdict-other = Der Speicher macht Fehler, und kein einzelnes Teil erklärt sie.
verdict-open = Eines von diesen: { $parts }.
verdict-unproved = Wahrscheinlich { $part }. Bewiesen ist es nicht: ohne dieses Teil konnte nichts laufen.
verdict-going-on = Noch nicht entschieden. Am ehesten bisher: { $part }.
verdict-clean = In dem, was geprüft wurde, kam kein Fehler. Das beweist nicht, dass alles in Ordnung ist: es schließt Fehler aus, die sich oft zeigen.
verdict-nothing = Es wurde noch nichts geprüft.
verdict-unfinished = Es kam kein Fehler, aber kein Lauf war vollständig und lang genug, um etwas auszuschließen.
verdict-not-whole = Aufzeichnungen dieses Auftrags sind beschädigt: dass kein Fehler bekannt ist, beweist nichts.
record-lost = { $count ->
    [one] Die Aufzeichnung eines Laufs oder dieses Auftrags ist beschädigt oder fehlt. Was in ihr stand, fehlt in diesem Bericht.
   *[other] { $count } Aufzeichnungen dieses Auftrags sind beschädigt oder fehlen. Was in ihnen stand, fehlt in diesem Bericht.
}
verdict-believe = Die Selbstprüfung des Programms ist fehlgeschlagen. Das Ergebnis ist ungültig.

part-module = das Modul { $module }
part-unfit = das Modul { $module }, gut, aber unverträglich mit diesem Rechner
part-slot = der Platz { $slot }
part-no-part = schlechter Kontakt im Steckplatz oder ein einmaliger Fehler
part-combination = { $module } zusammen mit anderen
part-pair = { $module } und { $other } zusammen
part-settings = die Speichereinstellungen
part-controller = Hauptplatine oder Prozessor
part-two = die Module { $module } und { $other }
part-module-slot = das Modul { $module } und der Platz { $slot }
part-other = etwas anderes

band-095 = sehr wahrscheinlich
band-050 = wahrscheinlich
band-005 = möglich
band-000 = unwahrscheinlich

why-with = { $failed ->
    [one] Ein Lauf damit schlug fehl
   *[other] { $failed } Läufe damit schlugen fehl
  }; ohne lief der Rest fehlerfrei{ $passes ->
    [0] .
    [1] , am längsten einen vollen Durchgang.
   *[other] , am längsten { $passes } volle Durchgänge.
  }
why-alone = { $failed ->
    [one] Ein Lauf damit schlug fehl
   *[other] { $failed } Läufe damit schlugen fehl
  }, und ohne dieses Teil gab es nichts, was laufen konnte.
why-beside = { $failed ->
    [one] Ein Lauf damit neben anderen schlug fehl
   *[other] { $failed } Läufe damit neben anderen schlugen fehl
  }; allein und ohne lief es fehlerfrei{ $passes ->
    [0] .
    [1] , am längsten einen vollen Durchgang.
   *[other] , am längsten { $passes } volle Durchgänge.
  }
why-touched = Nachdem die Module herausgenommen und wieder eingesetzt waren, lief es fehlerfrei, bestückt wie zu Anfang.
why-settings = Mit den schnellen Einstellungen schlug es fehl, mit den Standardeinstellungen lief es fehlerfrei.
why-best = Das erklärt, was die Läufe zeigten, besser als jedes Modul und jeder Platz.
clean-worth = { $runs ->
    [one] Der fehlerfreie Lauf, der am meisten sagt, dauerte
   *[other] Die { $runs } fehlerfreien Läufe mit denselben Modulen, Einstellungen und Tests, die am meisten sagen, dauerten zusammen
  } { $time } und { $passes ->
    [one] einen vollen Durchgang
   *[other] { $passes } volle Durchgänge
  }. Mit 95 % Sicherheit sind ausgeschlossen: zufällige Fehler, die häufiger als einmal in { $interval } kommen, und Fehler, die sich in mehr als { $percent } % der Durchgänge zeigen. Seltenere Fehler sind nicht ausgeschlossen.

do-replace = Das Modul ersetzen; die Bestellung steht unten.
do-elsewhere = Vor dem Entsorgen in einem anderen Rechner testen. Läuft es dort fehlerfrei, ist es gut, aber unverträglich mit diesem.
do-use-elsewhere = In einem anderen Rechner verwenden. Manchmal genügt es, die Vorgaben der Firmware zu laden und sie zu aktualisieren.
do-combination = Ersetzen, am besten durch eines mit derselben Teilenummer wie die anderen; vorher die Vorgaben der Firmware laden und sie aktualisieren.
do-pair = Eines der beiden behalten, das andere anderswo verwenden. Die Teilenummer des bleibenden Moduls kaufen oder einen abgestimmten Satz.
do-slot = Den Platz reinigen und seine Kontakte ansehen. Versagt er weiter, bleibt er leer, oder die Hauptplatine wird ersetzt.
do-module-slot = Das Modul ersetzen; den Platz leer lassen oder die Hauptplatine ersetzen.
do-settings = Die schnellen Einstellungen ausgeschaltet lassen. Wurde für ihre Geschwindigkeit bezahlt: Firmware aktualisieren, dann noch einmal über Nacht versuchen.
do-no-part = Nichts kaufen. Über Nacht testen: ein Kontakt kann sich wieder lösen.
do-controller = Vorgaben der Firmware laden, sie aktualisieren, Sitz und Kühler des Prozessors ansehen; die Module in einem anderen Rechner versuchen, bevor Hauptplatine oder Prozessor beschuldigt werden.
do-other = Jenseits des Speichers suchen: Netzteil, Wärme, Laufwerke.
do-open-good = Ein bekannt gutes Modul derselben Art der Reihe nach an die Stelle jedes Moduls setzen: das entscheidet.
do-open-set = Module, die allein fehlerfrei sind und zusammen versagen, werden durch einen abgestimmten Satz ersetzt.
do-going-on = Der nächste Schritt: { $step }.
do-files = Daten sichern und Dateien prüfen: was geschrieben wurde, während der Speicher Fehler machte, kann beschädigt sein.
do-proof = Danach laufen alle Module noch einmal zusammen, mit Rechenlast{ $time ->
    [none] .
    [once] . Es schlug vorher nur einmal fehl: ein fehlerfreier Lauf allein beweist dann nicht, dass die Reparatur geholfen hat.
   *[other] ; { $time } ohne Fehler zeigen mit 95 % Sicherheit, dass es geholfen hat.
  }
do-clean-next = Bleibt der Ärger, der Reihe nach ansehen: Aktualisierungen des Systems; die Prüfung der Systemdateien; Treiber; die Firmware; Laufwerke und ihre Kabel; eine frische Installation; dann noch einmal den Speicher, über Nacht und unter Rechenlast.
do-begin = Alle Module zusammen laufen lassen, mit allen Tests.

next-run = { $fitting }, { $time } lang

order = Was zu bestellen ist
order-module = { $kind }, { $size }{ $speed ->
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
order-part = Am besten die gleiche Teilenummer: { $part }.
order-beside = Es muss neben Module derselben Art passen; gibt es sie nicht mehr, einen abgestimmten Satz nehmen.
order-new = Lieber neu als gebraucht. Nicht mischen: registrierte mit ungepufferten, ECC mit Modulen ohne ECC.
order-board = In der Speicherliste (QVL) der { $board } nachsehen.

story = Was versucht wurde, und was es zeigte
story-none = Es gab keinen Lauf.
col-run = Lauf
col-when = wann
col-fitted = was bestückt war
col-settings = Einstellungen
col-long = wie lange
col-passes = volle Durchgänge
col-result = was es zeigte
fitted-in = { $module } in { $slot }
told-void = Selbsttest fehlgeschlagen: Ergebnis ungültig
told-errors = { $count ->
    [one] { $shown } Speicherfehler
   *[other] { $shown } Speicherfehler
  }
told-uncorrectable = { $count ->
    [one] { $shown } nicht korrigierbarer Hardwarefehler
   *[other] { $shown } nicht korrigierbare Hardwarefehler
  }
told-miscalculated = Falsch gerechnet: { $count ->
    [one] { $shown } Zahl
   *[other] { $shown } Zahlen
  }
told-corrected = Nur korrigierte Fehler: { $shown }
told-clean = Fehlerfrei
told-clean-so-far = Bisher fehlerfrei: { $progress }
told-no-full-pass = Nichts gefunden, aber kein voller Durchgang
told-nothing-tested = Nichts gefunden, aber kein Speicher blieb im Test
told-not-whole = Aufzeichnung beschädigt: im Rest wurde nichts gefunden
record-damaged = { $told }, Aufzeichnung beschädigt
progress-first = erster Durchgang nicht beendet
progress-passes = { $count ->
    [one] { $shown } Durchgang
   *[other] { $shown } Durchgänge
  }
progress-passes-of = { $done } von { $planned } Durchgängen
progress-time-of = { $done } von { $planned }
in-place = { $told } in { $place }
in-places = { $told } an { $places } Stellen
in-slots = { $told } ({ $slots })
on-part = { $told } auf { $tested } von { $whole }
on-unknown = { $told } auf { $tested }, eingebauter Speicher unbekannt
ended-plan = { $told }, alle Durchgänge beendet
ended-time = { $told }, die Zeit war um
ended-error-limit = { $told }, an der Fehlergrenze angehalten
ended-hand = { $told }, von Hand angehalten
ended-broke-off = { $told }, abgerissen durch Stromausfall, Stillstand oder Neustart
unproved = { $told }, ohne Selbsttest
shown-again = Wieder gezeigt: { $told }
not-shown-again = Nicht wieder gezeigt: { $told }
times = { $count } × { $result }
struck-out = { $result } (zählt nicht: { $reason })
doubtful-clock = { $when } (die Uhr dieses Rechners ging falsch)

modules = Die Module
col-module = Modul
col-kind = Art
col-size = Größe
col-serial = Seriennummer
col-outcome = was daraus wird
end-replace = zu ersetzen
end-elsewhere = gut, anderswo zu verwenden
end-in-question = fraglich
end-keep = lief fehlerfrei, bleibt
end-untested = nicht geprüft
end-unknown = nicht entschieden
good = als gut bekannt
unnamed = ohne Seriennummer

where = Wo es versagte
where-words = { $shape } in { $slots }{ $lanes ->
    [none] {""}
   *[other] , Datenleitung { $lanes }
  }.
certainty-certain = Der Platz ist sicher: ein anderer kommt nicht in Frage.
certainty-assumed = Der Platz folgt aus einer Adresskarte, die noch nichts bestätigt hat.
certainty-one-of = Es ist einer dieser Plätze; welcher, ist nicht bekannt.
certainty-unknown = Welcher Platz es ist, lässt sich nicht sagen.
shape-cell = Eine Zelle
shape-column = Zellen einer Spalte
shape-row = Zellen einer Zeile
shape-bank = Zellen einer ganzen Bank
shape-lane = Eine Datenleitung, überall
shape-lane-pair = Zwei Datenleitungen
shape-byte-lane = Eine Byteleitung
shape-address-line = Wörter, bei denen ein Adressbit einen Wert hat
shape-half-module = Ein Rank eines Moduls
shape-whole-module = Ein ganzes Modul
shape-channel = Alle Plätze eines Kanals
shape-decoder-doubles = Wörter, die zu zweit kommen, ein Adressbit auseinander
shape-scattered = Einzelne Bits hier und da
shape-machine = Alles, in jedem Kanal
shape-several = Nicht klar, welches davon: { $shapes }

files = Was das für Dateien bedeutet
files-words = Solange der Speicher Fehler machte, kann alles, was durch ihn ging, unbemerkt verändert worden sein: gespeicherte Dokumente, installierte Programme, Kopien und Sicherungen. Mit älteren Sicherungen vergleichen. Die Dateien des Systems prüfen. Was nur gelesen und nie zurückgeschrieben wurde, ist nicht betroffen.

detail = Im Einzelnen
tested = Was geprüft wurde
tested-words = Höchstens { $bytes } von { $fitted } wurden zugleich geprüft, { $percent } %.
tested-unknown = Höchstens { $bytes } wurden zugleich geprüft; wie viel eingebaut ist, ist nicht bekannt.
never = Was nie geprüft wurde
never-rest = { $reason ->
    [chosen] { $bytes } des Speichers: nach Wahl ausgelassen.
    [firmware] { $bytes } des Speichers: von der Firmware belegt.
    [running-system] { $bytes } des Speichers: vom laufenden System belegt.
    [moved] { $bytes } des Speichers: die Seiten wurden während des Tests verschoben.
    [taken-out] { $bytes } des Speichers: nach einem Hardwarefehler herausgenommen.
   *[other] { $bytes } des Speichers: nicht jeder Test wurde darauf beendet.
  }
never-computing = Der Speicher, während der Prozessor hart rechnet: kein Lauf hatte diese Last.
never-overnight = Fehler, die sich so selten zeigen, dass die Zeit dieser Läufe sie nicht ausschließt.
never-modules = Diese Module, in keinem Lauf, der fertig wurde: { $modules }.
never-hot = Wie es sich verhält, wenn es heiß ist: keine Temperatur war zu lesen.
loads-both = Die Läufe hatten Prüfmuster und Rechenlast.
loads-patterns = Die Läufe hatten Prüfmuster, keine Rechenlast.
hottest = Die Module wurden höchstens { $celsius } °C warm.
order-from = March-Tests finden Kopplungen zwischen Zellen, die mindestens { $bytes } auseinander liegen. Nähere können unbemerkt bleiben.
order-of-shares = Mehrere Kerne prüften je einen Teil: Kopplungen zwischen Zellen verschiedener Teile können unbemerkt bleiben.
heat-only-from = Fehler kamen erst ab { $from } °C: Der Fehler zeigt sich, wenn es warm ist.
heat-no-difference = Von { $from } bis { $to } °C änderte Wärme nichts an den Fehlern.
rows-by-map = Der Test auf Zeilenstörung öffnete bis zu { $rows } Zeilen einer Bank abwechselnd, jede mindestens { $openings }-mal in 64 ms. Die Adresskarte nannte die Zeilen.
rows-by-timing = Der Test auf Zeilenstörung öffnete bis zu { $rows } Zeilen einer Bank abwechselnd, jede mindestens { $openings }-mal in 64 ms. Langsamere Zugriffe verrieten die Zeilen: Nachbarn sind wahrscheinlich, nicht sicher.
rows-guessed = Der Test auf Zeilenstörung las bis zu { $rows } Wörter abwechselnd, in Abständen, in denen Zeilen einer Bank oft liegen. Ob er Zeilen öffnete, ist nicht bekannt.
tests = Tests des Laufs { $run }
col-test = Test
col-finished = fertige Durchgänge
col-wrong = falsche Wörter
col-swept = überstrichener Speicher
chart-errors = Falsche Wörter über die Zeit, Lauf { $run }
chart-errors-heat = Falsche Wörter über die Zeit (Balken) und Temperatur (Linie), Lauf { $run }
chart-grid = Tests und Durchgänge, Lauf { $run }
chart-board = Die Platine in Lauf { $run }
axis-minutes = Minuten
axis-words = falsche Wörter
axis-celsius = °C

logged = Was das System des Rechners selbst vermerkt hatte
logged-more = Und { $count ->
    [one] ein weiterer Eintrag.
   *[other] { $count } weitere.
  }
col-last = zuletzt
col-logged = was
col-count = Anzahl
col-slot = Steckplatz
col-address = Adresse
log-uncorrected = Speicherfehler, nicht korrigiert
log-check-found = Speicherprüfung des Systems fand Fehler
log-page-retired = ein Stück Speicher wurde stillgelegt
log-corrected = Speicherfehler, korrigiert
log-machine-check = der Prozessor meldete einen Fehler
log-stop-screen = das System hielt mit einer Meldung an
log-check-clean = Speicherprüfung des Systems fand nichts

kept = Woher das kommt
kept-words = Programm { $program }. Der Bericht folgt aus den Journalen der unten genannten Läufe; ihre Prüfsumme (SHA-256) ist { $sum }. Dieselben Journale ergeben dieselbe Prüfsumme.
signed = Dieser Bericht sagt, was gemessen wurde und was daraus mit der daneben stehenden Sicherheit folgt. Er ist keine Gewähr für irgendein Teil.

speed = Wie schnell der Speicher ist
speed-one-channel = Der Speicher schaffte { $rate }, { $share } dessen, was { $channels } Kanäle leisten: Alle Module teilen sich einen Kanal. Eines davon gehört nach { $free }.
speed-lost-channel = Der Speicher schaffte { $rate }, { $share } dessen, was { $channels } Kanäle leisten, obwohl in jedem ein Modul steckt: Ein Kanal ist vielleicht ausgefallen.
speed-profile-off = Der Speicher schaffte { $rate }, wie bei { $speed } MT/s zu erwarten. Verkauft werden die Module für { $sold } MT/s: Ihr Profil ist ausgeschaltet. Eingeschaltet ist es schneller und muss erneut geprüft werden.
speed-profile-stored = Der Speicher schaffte { $rate }, wie bei { $speed } MT/s zu erwarten. In den Modulen ist ein schnelleres Profil hinterlegt, das ausgeschaltet ist. Eingeschaltet muss es erneut geprüft werden.
speed-tables = Der Speicher schaffte { $rate }, mehr als die Tabellen der Firmware bei { $speed } MT/s zulassen: Sie sind falsch.
speed-guest = Gemessen wurde in einer virtuellen Maschine; daraus wird nichts geschlossen.
speed-small = Lesen mit allen Kernen, was kein Zwischenspeicher fasst; die Zeit eines einzelnen Lesens in zufälliger Folge.
half = etwa die Hälfte
col-measured = gemessen
col-speeds = bestückt, MT/s
col-read = Lesen
col-latency = einzeln
