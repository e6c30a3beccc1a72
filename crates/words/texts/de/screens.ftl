
chrome-simulated = simuliert
chrome-virtual-machine = virtuelle Maschine
chrome-ranges-trusted = virtuelle Maschine, Steckplätze laut Firmware (Test)
chrome-run-begins = ein Lauf beginnt
chrome-run = Lauf: { $outcome } · { $percent } %
chrome-keys = Tasten

key-watch-measuring = Messung ansehen
key-watch-run = Lauf ansehen
key-show-keys = Tasten zeigen
key-list-actions = Aktionen zeigen
key-search-actions = Aktionen suchen
key-switch-language = auf { $language } umstellen
key-redraw = Bildschirm neu zeichnen
key-text-size = Schrift größer oder kleiner
key-leave = beenden
key-go-on = fortsetzen
key-pause = anhalten
key-space = Leer
key-stop-run = Lauf beenden
key-next-test = nächster Test
key-add-pass = ein Durchgang mehr

planned-run = Der geplante Lauf
first-look = Ein erster Blick auf den ganzen Speicher
starts-automatically = { $next } beginnt in { $seconds } s von selbst; jede Taste hält das an.
results-lost = Ergebnisse gehen beim Ausschalten verloren: { $why }.
results-doubtful = Das Dateisystem für Ergebnisse ist beschädigt ({ $doubt }): seine Aufzeichnungen wegkopieren und den Stick neu erstellen.
more-of-the-start-written = Noch { $more }, in starts.txt auf dem Stick.
more-of-the-start = Noch { $more }.
no-run-yet = noch kein Lauf
enlarge = auf { $width }x{ $height } vergrößern; q beendet

keys-in = Tasten in { $name }
terms-explained = Begriffe erklärt
any-other-key-closes = jede andere Taste schließt
actions = Aktionen
no-action-found = Keine Aktion hat das im Namen. Esc schließt.
actions-keys = ↑↓ wählen   Enter ausführen   tippen grenzt ein   Esc schließen

stop-after = Nach { $ran } beenden; er kann später fortgesetzt werden
keep-running = Weiterlaufen lassen
stop-this-run = Diesen Lauf beenden?
no-run-in-progress = Es läuft nichts.
run-in-progress = Ein Lauf ist im Gang.
leaving-stops = Beim Verlassen endet er. Was er bisher fand, ist aufgezeichnet und bleibt im Protokoll.
stop-and-leave = beenden und verlassen
stay = bleiben
leave-unrecorded = NICHT AUFGEZEICHNET: { $why }. Was gefunden wurde, geht beim Ausschalten verloren: vorher aufschreiben oder den Bildschirm fotografieren. Was nun?
leave-recorded = Alles ist gespeichert. Was nun? Danach den Stick abziehen und die Startreihenfolge in der Firmware zurückstellen, falls sie geändert wurde.
leave-recorded-in = Alles ist gespeichert. Der Bericht liegt auf dem Stick in revisum/reports/{ $job }. Was nun? Danach den Stick abziehen und die Startreihenfolge in der Firmware zurückstellen, falls sie geändert wurde.
nothing-to-leave = Es gibt nichts zu verlassen.
broke-off-question = Lauf { $run } hat kein Ende. { $sentence } Was ist geschehen? Die Antwort zählt als Beleg.
no-run-broke-off = Kein Lauf brach ab.

# booted.rs
not-recorded-why = NICHT AUFGEZEICHNET: { $why }
not-recorded = NICHT AUFGEZEICHNET
recorded-on = gespeichert auf { $place }
recorded = gespeichert
booted-restart = Rechner neu starten
booted-off = Rechner ausschalten
booted-rest = neu starten und den Speicher testen, den dieser Start nicht erreichte
booted-rest-adds = die übrigen { $bytes } testen ({ $percent } %): Dafür startet der Rechner noch einmal

choice-keys = ↑↓ wählen   Enter ausführen   Esc schließen

glossary-term = Begriff
glossary-meaning = Bedeutung
glossary-keys = ↑↓ wählen   jede andere Taste schließt

any-key-closes = Jede Taste schließt.

any-other-key = jede andere Taste

# event_loop.rs
size-unknown = Die Größe des Terminals ist unbekannt
no-thread = Kein Thread zu bekommen: die Zahl der Prozesse dieses Benutzers ist zu eng begrenzt (ulimit -u)
no-signals = Signale können nicht empfangen werden

big-error = FEHLER
big-errors = FEHLER
million = Millionen
billion = Milliarden
billion-short = Mrd
trillion = Billionen
trillion-short = Bio
quadrillion = Billiarden
quadrillion-short = Brd
quintillion = Trillionen
quintillion-short = Tri
and-more = {" "}und { $more } weitere
in-slots = in { $slots }{ $more }
across-so-far = { $ran } bisher, { $times }

errors-over-one = Fehler über { $time }   { $most } °C
errors-over-range = Fehler über { $time }   { $least } bis { $most } °C, ^ am wärmsten
errors-over-none = Fehler über { $time }   kein Temperaturfühler

strip-unknown = { $bytes } erkannt. Steckplätze und Module sind unbekannt: keine Firmware-Tabellen.
strip-more = { $first } bis { $last } von { $all } belegten Steckplätzen; ↑ ↓ zeigt andere
strip-channel = Kanal { $channel }
strip-empty = leer
strip-outside = außerhalb
strip-from = ← { $id } von { $from }
strip-out = heraus
strip-removed = entnommen:{" "}
strip-suspect = Verdacht, { $band }
strip-not-tested = so noch nicht getestet
strip-earlier = , früherer Lauf
errors = { $n } Fehler
strip-errors-here-or = Fehler hier oder anderswo
strip-hardware = Hardwarefehler
strip-none-here = Fehler, aber keiner hier
strip-corrected = { $n } korrigiert
strip-corrected-elsewhere = korrigierte Fehler anderswo
strip-corrected-unknown = korrigierte Fehler, Steckplatz unbekannt

map-module =
    { $slot }: { $ranks ->
        [one] { $ranks } Rank
       *[other] { $ranks } Ranks
    } mit { $banks ->
        [one] { $banks } Bank
       *[other] { $banks } Bänken
    }, je { $rows ->
        [one] { $rows } Zeile
       *[other] { $rows } Zeilen
    }
map-bank = { $slot }: Rank { $rank }, Bank { $bank }
map-around = { $slot }: Rank { $rank }, Bank { $bank }, um Zeile { $row } Spalte { $column }
map-rank-bank = Rank { $rank } Bank { $bank }
map-bank-of = Bank { $bank }
map-row-of = Zeile { $row }
map-row = Zeile
map-column = Spalte

moves-now = jetzt
moves-then = dann

ribbon-held = { $held } von { $fitted } im Test ({ $percent } %)
ribbon-held-unknown = { $held } im Test, eingebauter Speicher unbekannt
ribbon-no-addresses = {"   "}Adressen unbekannt
ribbon-with-errors =
    { $reached }{ $addresses }   { $places ->
        [one] { $places } Stelle
       *[other] { $places } Stellen
    } mit Fehlern

big-self-check = SELBSTPRÜFUNG VERSAGT
big-void = UNGÜLTIG
big-record-damaged = AUFZEICHNUNG BESCHÄDIGT
big-damaged = BESCHÄDIGT
big-hardware = HARDWAREFEHLER
big-computed = FALSCH GERECHNET
big-wrong = FALSCH
big-corrected = KORRIGIERTE FEHLER
big-ecc = ECC-FEHLER
big-clean = FEHLERFREI
big-clean-part = ZUM TEIL FEHLERFREI
big-part = TEILS OK
big-clean-so-far = BISHER FEHLERFREI
big-so-far = TEST LÄUFT
big-broken-off = ABGEBROCHEN
big-not-finished = NICHT BEENDET
big-unfinished = UNFERTIG
of-passes = {" "}von { $passes }
pass-of = Durchgang { $pass }{ $of }
test-of = Test { $at } von { $tests }, { $title }, { $share } %
paused-after = angehalten nach { $elapsed }
about-left = noch etwa { $left }, Ende { $end }
left-ends = noch { $left }, Ende { $end }
ends = Ende { $end }
so-far = bisher { $elapsed }
took = dauerte { $took }
pass-number = Durchg. { $pass }
tests-from-to = Test  { $from } bis { $to } von { $tests }
test = Test
temperature-celsius = Temperatur (°C)
low-to-high = { $low } bis { $high }
before = vorher
test-stopped = gestoppt
test-skipped = übersprungen
panel-now = jetzt
each-covers-all = , jeder den ganzen Speicher
panel-cores = Kerne
panel-rate = Rate
panel-heat = Wärme
panel-clock-range = { $lowest } bis { $highest } GHz
panel-clock = Takt
check-failed = { $missed }-mal fehlgeschlagen: Ergebnis ungültig
check-not-yet = noch nicht
check-passed = bestanden, { $caught } von { $caught }
self-check = Prüfung
excluded-bytes = { $bytes } ausgeschlossen (Seite verschoben oder defekt)
panel-moved = verschoben
panel-wrong = falsch
run-reads-back = Die Aufzeichnung liest sich anders zurück, als gezählt wurde: dieser Speicher oder das Laufwerk kann defekt sein. Das Schlechtere von beiden ist zu sehen.
panel-counts = Zahlen
panel-counts-differ = uneins
numbers =
    { $n ->
        [one] { $n } Zahl
       *[other] { $n } Zahlen
    }
ecc-counts = { $corrected } korrigiert, { $uncorrected } nicht
slot-unknown = Steckplatz unbekannt
or = {" "}oder{" "}
dq-reads = DQ { $lane } liest { $reads } statt { $expected }
lines-of-lane = mehrere Datenleitungen der Byte-Gruppe { $lane }
lines-at-once = { $several } Datenleitungen zugleich
col-samples = Proben
col-where = wo
col-what = was
col-re-read = Nachlesen
col-tests = Tests
unknown-address = eine unbekannte Adresse
first-sample = { $address }  geschrieben { $expected }  gelesen { $actual }

# lib.rs
drive-takes-nothing = das Laufwerk nimmt nichts an ({ $cause })

does-not-start-six = Der Rechner startet nicht: { $sign }. 6 setzt Module um.
cannot-be-run = Das kann nicht laufen: { $error }.

step-written-down = Dieser Schritt ist notiert. Rechner ausschalten und ihn ausführen. Beim nächsten Start vergleicht Revisum die Bestückung mit diesem Schritt und fährt fort.

facts-findings = Befunde
facts-empty = { $id }, leer
facts-machine = Rechner
facts-temperature = Temperatur
facts-counts = { $corrected } korrigiert, { $uncorrected } nicht korrigiert
facts-counted = gezählte Fehler
facts-logged = vermerkter Fehler
unknown = unbekannt
facts-memory = Speicher, { $bytes } { $whole }
first-to-last = { $first } bis { $last }

more-i-shows = { $more } weitere: i zeigt alle.
board-module = Modul
board-soldered = verlötet
board-socketed = { $form }, gesteckt
board-channel = , Kanal { $channel }
board-maker = Hersteller
board-part = Teilenr.
board-serial = Serie
board-label = Aufschrift
board-runs-at = läuft mit
board-at = {" "}bei{" "}
board-spd-timings = SPD-Zeiten
board-profiles = Profile
board-made = gebaut
board-type = Bauform
board-earlier = früher
ranks =
    { $n ->
        [one] { $n } Rank
       *[other] { $n } Ranks
    }
board-empty-slot = leerer Steckplatz
board-slots-unknown = Steckplätze sind hier unbekannt, deshalb haben Fehler keinen Ort. Testen geht trotzdem: Module von Hand einzeln herausnehmen und nach jeder Änderung erneut laufen lassen.
board-mainboard = Hauptplatine
board-elsewhere = ; in { $machine }: { $end }
board-none = keine
board-runs-clean =
    { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufe
    }, keiner mit Fehlern darin
board-other-slots = , auch in anderen Steckplätzen
board-runs-failed =
    { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufe
    }, Fehler in { $failed }{ $elsewhere }
board-memory = Speicher
board-tested = { $tested } von { $installed } in diesem Auftrag getestet ({ $percent } %)
board-computer = Rechner
board-firmware = Firmware
board-processor = Prozessor
cores =
    { $n ->
        [one] { $n } Kern
       *[other] { $n } Kerne
    }
board-controller = Steuerung
board-max-memory = maximal
board-settings = Einstellung
board-temperature = Temperatur
board-hidden = Physische Adressen sind für diesen Benutzer verborgen: Fehler haben dann keine Adresse. Als root ausführen, um sie zu sehen.
does-not-start = Der Rechner startet nicht: { $sign }.
the-owner = Besitzer
jobs-open-step = offen
board-next-errors = In diesem Auftrag kamen Fehler. 6 zeigt den Verdacht und den nächsten Schritt.
board-next-nothing = Noch ist nichts gelaufen. Enter testet den ganzen Speicher; 3 ändert das Rezept.
board-next-clean = Bisher keine Fehler in diesem Auftrag. 3 hat längere Läufe; 8 zeigt die Läufe.
next = weiter
lines-of = Zeilen { $first } bis { $shown } von { $lines }

mark-red = roter Punkt
mark-green = grüner Punkt
mark-blue = blauer Punkt
mark-yellow = gelber Punkt
mark-white = weißer Punkt
mark-off = Markierung entfernen
mark-no-slot = Hier ist kein Steckplatz bekannt, also gibt es kein Modul zu markieren.
mark-empty = { $id } ist leer: es gibt nichts zu markieren.
mark-module-in = { $module } in { $id }
mark-title = { $name } markieren
mark-what = Was darauf ist, um es auf dem Tisch wiederzuerkennen:{" "}
mark-keys = ↑↓ wählen oder anderes tippen   Enter übernehmen   Esc so lassen

board-purpose = Board: was eingebaut ist
key-run = { $chosen } starten
key-further-down = weiter unten
key-back-board = zum Board
key-select-slot = Steckplatz wählen
key-mark-module = Modul markieren
key-all-facts = alle Angaben
key-every-run = Läufe des Moduls
board-slot-empty = Dieser Steckplatz ist leer: es gibt kein Modul, dessen Läufe zu zeigen wären.
board-no-serial = Dieses Modul meldet keine Seriennummer; seine Läufe sind von denen anderer nicht zu unterscheiden.

intake-owner = Besitzer
intake-says = sagt
intake-changed = geändert
intake-tried = versucht
intake-words = Notizen
intake-w-to-add = mit w hinzufügen
intake-slow = langsam
intake-speed = 7 misst, ob der Speicher so schnell ist wie erwartet.

intake-purpose = Fall: was über den Rechner bekannt ist
key-select-row = Zeile wählen
key-toggle = an/aus
key-add-notes = Notizen anfügen
intake-anything-else = Was der Besitzer sonst noch sagte
keep-cancel = Enter behalten   Esc abbrechen

col-machine = Rechner
col-job = Auftrag
col-result = Ergebnis
col-purpose = Zweck
jobs-none = Kein Auftrag aufgezeichnet.
jobs-nothing-noted = nichts notiert
jobs-closed = abgeschlossen nach { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufen
    }
jobs-open = offen, { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufe
    }
jobs-stage = { $stage }, { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufe
    }
jobs-not-run = noch nicht gelaufen
jobs-on-bench = { $words }, auf der Werkbank

drives-title = Boot-Stick erstellen
drives-from = aus { $image }
drives-no-image = Neben den Aufzeichnungen oder dem Programm liegt kein Abbild revisum-boot.img: cargo xtask image erstellt es.
drives-none = Kein Wechseldatenträger gefunden. Einen anstecken und d drücken; 512 MiB genügen.
drives-unknown-content = unbekannter Inhalt
drives-on-it = darauf: { $contents }
drives-not-offered = nicht angeboten: { $why }
drives-results-stay = Ergebnisse auf einem vorhandenen Boot-Stick bleiben.
drives-erased = Alles auf dem Datenträger wird gelöscht.
drives-done = { $mark } { $drive }: { $bytes } in { $time } geschrieben und zurückgelesen, { $rate } pro Sekunde. Er kann abgezogen werden.
drives-checking = Abbild prüfen
drives-writing = schreiben
drives-reading-back = zurücklesen

drives-line = { $path }   { $bytes }   darauf: { $contents }
drives-results-stay-if = Seine Ergebnisse bleiben, wenn es schon ein Boot-Stick ist.
drives-all-erased = Alles auf { $drive } wird gelöscht
drives-type-name = Zum Fortfahren seinen Namen tippen:{" "}
drives-keys = Enter fortfahren   Esc abbrechen
drives-name-wrong = Der Name stimmt nicht mit { $drive } überein. Nichts wurde geschrieben.

jobs-purpose = Jobs: jeder Rechner, der hereinkam
key-open-machine = { $machine } öffnen
key-open-this = diesen Rechner öffnen
key-select-job = Auftrag wählen
key-make-drive = Boot-Stick erstellen
key-new-job = neuer Auftrag
drives-being-written = Ein Stick wird geschrieben. x bricht ab; sein alter Inhalt ist dann verloren, und er startet nicht.
key-continue-meanwhile = inzwischen weitermachen
key-give-up = abbrechen
key-end-first = laufende Arbeit zeigen
key-write-to = auf { $drive } schreiben
key-search-drives = Sticks neu suchen
key-select-drive = Stick wählen
key-toggle-results = Ergebnisse behalten an/aus
key-back-jobs = zu den Jobs
jobs-run-in-progress = Ein Lauf ist im Gang. Erst beenden, dann einen anderen Auftrag öffnen.
jobs-still-open = Der jetzige Auftrag ist noch offen. Erst mit c unter 6 abschließen. Seine Ergebnisse bleiben aufgezeichnet.
jobs-already-new = Der jetzige Auftrag ist schon neu: darin ist nichts gelaufen.

locate-no-errors = Bisher keine Fehler. Kommen welche, steht hier, wo sie sind und was versagte.
locate-nothing-run = In diesem Auftrag lief noch nichts. Enter beginnt; kommen Fehler, steht hier, wo sie sind.
locate-latest-clean = Der letzte Lauf dieses Auftrags fand keine Fehler: es gibt nichts zu orten.
locate-likely = vermutlich
locate-then = , dann{" "}
locate-fits = passt zu
locate-again = erneut
locate-outside = außerhalb
key-use-learned = gelernte Karte verwenden
locate-learned = gelernt
locate-learned-fits = Auf dieser Hauptplatine wurde mit derselben Bestückung eine Karte der Steckplätze gelernt; u geht nach ihr.
locate-outside-map =
    { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörter
    } außerhalb der Karte
locate-limit = Grenze
locate-lanes = Leitungen

locate-cell = Rank { $rank } Bank { $bank } Zeile { $row } Spalte { $column }
locate-many-lines = { $many } Datenleitungen

locate-per-line = fehlerhafte Wörter je Datenleitung (DQ), höchstens { $most }
locate-chips-unknown = Chips unbekannt: das Modul meldet ihre Breite nicht
locate-chip = Chip { $chip }

locate-find = suchen{"  "}
locate-find-keys = _   Enter behält, Esc zeigt alle
locate-find-kept = {"   "}/ ändert, Esc zeigt alle
col-slot = Steckplatz
col-words = Wörter
locate-no-group = Keine Gruppe hat das in ihrer Zeile.
col-address = Adresse
col-cell = Zelle
col-behaviour = Verhalten
locate-no-word = Kein Wort hat das in seiner Zeile.
locate-cell-short = r{ $rank } Bank { $bank } Zeile { $row } Sp { $column }
locate-no-map = keine Adresskarte
locate-failed = fehlerhaft { $seen }
locate-once = einmal: { $behaviour }
locate-times = { $times }-mal: { $behaviour }

locate-purpose = Orte: wo die Fehler sind und was versagte
key-what-next = nächsten Schritt zeigen
key-select-word = Wort wählen
key-select-group = Gruppe wählen
key-zoom-in = näher
key-zoom-out = weiter weg
key-zoom = Ausschnitt
key-find = suchen
key-repeat-failed = Fehlgeschlagenes wiederholen
key-continue-run = Lauf fortsetzen
key-exclude-ranges = defekte Bereiche ausschließen
key-step-back = einen Schritt zurück
locate-nothing-to-exclude = In diesem Auftrag kamen keine Fehler: es gibt nichts auszuschließen.
locate-no-workaround = Es gibt keinen Notbehelf: { $refusal }.
locate-costs = Er kostet { $costs }. { $warning }
locate-linux-kernel = Linux, Kernel-Parameter: { $parameters }
locate-linux-grub = Linux, GRUB-Einstellungen: { $settings }
locate-windows = Windows, als Administrator: { $commands }
and = {" "}und{" "}
locate-prints = revisum locate last gibt sie zum Kopieren aus.

no-picture-flood = Kein Bild des Moduls: zu viele Fehler, um jeden zu behalten, und die behaltenen sind keine faire Stichprobe.
no-picture-map = Kein Bild des Moduls: ohne Adresskarte sind Ranks, Bänke, Zeilen und Spalten unbekannt.

import-no-folder = Kein Ordner wurde getippt: nichts wurde eingelesen.
import-title = Aufzeichnungen von einem anderen Laufwerk oder Ordner einlesen
import-no-drive = Kein eingehängtes Laufwerk hat Aufzeichnungen. Eines einhängen und i erneut drücken, oder einen Ordner tippen.
import-one = Dieses Laufwerk hat Aufzeichnungen:
import-several = { $several } Laufwerke haben Aufzeichnungen; ↑↓ wählt:
import-copied = Läufe und Jobs werden kopiert. Was schon hier ist, bleibt, und das Laufwerk wird nicht verändert.
import-keys = Enter einlesen   Esc abbrechen

logs-compared = verglichen

col-started = begonnen
col-depth = Tiefe
col-errors = Fehler
col-corrected = korrigiert
col-arrangement = Bestückung
logs-clock-wrong = {" "}(Uhr ging falsch)
logs-log-of = Protokoll von{" "}
logs-state-after = Stand nach { $at } von { $length }
logs-of = { $runs } von { $count }
logs-found = / { $value }{ $cursor }   { $all } gefunden
logs-far = { $at } von { $of }
logs-records = Aufzeichnungen
logs-importing = { $far } werden aus { $now } eingelesen
logs-nothing-found = Kein Lauf hat diesen Text in Rechner, Modulen, Tests, Ergebnis oder Kennung.
logs-none-yet = Noch kein Lauf aufgezeichnet.
logs-recorded = Jeder Lauf wird von selbst aufgezeichnet. 4 beginnt einen.
logs-id = Kennung { $id }
logs-unreadable = { $count } Aufzeichnungen sind nicht lesbar; die erste: { $first }
logs-kept-elsewhere = in den Aufzeichnungen von { $name }
logs-aside = Läufe anderer Werkstätten fehlen: `revisum ledger show` sagt, warum.

col-mainboard = Hauptplatine
logs-history-of = Geschichte von{" "}
logs-with-errors =
    { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufe
    }, { $failed } mit Fehlern
logs-open = offen
logs-closed = abgeschlossen
logs-job = Auftrag { $job } { $state }
logs-no-run-of = Kein Lauf mit diesem Modul aufgezeichnet.

logs-purpose = Logs: frühere Läufe
key-back-list = zur Liste
key-through-time = durch die Zeit gehen
key-back-module = zum Modul
key-select-run = Lauf wählen
key-select-entry = Eintrag wählen
logs-imported = Eingelesen: { $done }.
logs-not-imported = Die Aufzeichnungen konnten nicht eingelesen werden: { $why }.
key-system-logs = Systemprotokolle
key-select-compare = zum Vergleich wählen
key-import = Aufzeichnungen einlesen
key-all-runs = alle Läufe
key-open-run = Lauf öffnen
key-keep-evidence = als Beleg behalten
key-back = zurück
key-compare-runs = { $chosen } Läufe vergleichen
key-open = öffnen
logs-most-compared = Höchstens { $most } Läufe lassen sich vergleichen. Leer auf einem gewählten nimmt ihn heraus.
logs-being-imported = Aufzeichnungen werden aus { $now } eingelesen. Eine Meldung folgt, wenn es fertig ist.

col-last = zuletzt
col-count = Anzahl
system-title = Systemprotokolle über Speicher
system-reading = Die Protokolle werden gelesen. Eine ganze Platte dauert etwas.
system-kept = {"   "}im Auftrag behalten
system-more = {" "}{ $more } weitere.
system-none = Kein Eintrag handelt von Speicher.
system-proves-little = Das beweist wenig: viele Systeme vermerken nichts davon, und eines, das stehen blieb, konnte nicht. Eingehängte Platten werden mit durchsucht; revisum system-log PFAD liest jede andere.

recipe-more = mehr
recipe-one-pass = ein Durchgang etwa { $pass }
recipe-minutes = Minuten
recipe-hour = eine Stunde
recipe-eight-hours = acht Stunden
recipe-moment = ein Moment
recipe-sweeps = { $n } Durchläufe
recipe-cannot-say = Nicht erkennbar: { $limits }
recipe-no-model = erkennt kein Modell ganz
recipe-apart = ; zwei Zellen: mindestens { $from } auseinander, von einem Kern durchlaufen
recipe-detects = erkennt jeden { $models }{ $apart }
about = etwa { $time }
recipe-measuring = wird gemessen, eine Sekunde bitte
recipe-not-known = unbekannt: nichts war zu messen
recipe-then-stable = etwa { $time }, dann bis die Temperatur zehn Minuten gleich bleibt
recipe-less-than-pass = weniger als ein Durchgang
recipe-about-passes = etwa { $passes } Durchgänge
recipe-memory = Speicher
recipe-pass = ein Durchgang
recipe-in-all = insgesamt
recipe-before = vorher
recipe-to-take = etwa { $time }, um den Speicher zu belegen
recipe-leaves-rest = Den Rest lässt das Rezept aus.
recipe-not-tested = ungetestet
recipe-no-time = keine Zeit für

recipe-purpose = Rezept: was laufen soll
recipe-as-it-comes = auf { $depth } zurücksetzen
key-change-value = Wert ändern
key-write-file = in Datei speichern
key-open-recipe = Rezeptdatei öffnen
recipe-which = Welches Rezept?
recipe-none-written = Noch kein Rezept geschrieben. w schreibt dieses.

recipe-start = Start
recipe-depth = Tiefe
recipe-tests = Tests
recipe-end = Ende
recipe-how = Art
recipe-else = sonst
recipe-top = das Ende
recipe-passes = Durchgänge
recipe-as-many = so viele passen
recipe-time = Zeit
recipe-any = beliebig
recipe-until = bis
recipe-any-time = beliebig
recipe-stop = Stopp
recipe-not-for-errors = nicht bei Fehlern
recipe-amount = Menge
recipe-all-there-is = alles
recipe-from = von
recipe-to = bis
recipe-each-core = jeder Kern
recipe-cores = Kerne
recipe-all-cores = alle { $cores }
recipe-first-cores = die ersten { $many }
recipe-caches = Caches
recipe-waits = Wartezeit
recipe-as-tests-say = wie im Test
recipe-warmth = Wärme
recipe-until-stable = bis sie gleich bleibt
recipe-as-comes = wie sie kommt
recipe-sound = Ton
recipe-first-and-end = erster Fehler und Ende
recipe-off = aus
recipe-at-first = beim ersten Fehler
recipe-at-errors = bei { $errors } Fehlern
recipe-share = testet seinen Teil
recipe-all-memory = testet allen Speicher
recipe-per-test = wie jeder Test es braucht
recipe-flush = nach jedem Durchlauf leeren
key-choose = { $depth } wählen
key-leave-out = Test weglassen
key-take-in = Test aufnehmen
key-next-value = nächster Wert
recipe-help-start = Beginnt den Lauf, wie er unten gewählt ist.
recipe-help-passes = Wie oft alle Tests laufen; links von 1 so viele Durchgänge, wie in die Zeit passen.
recipe-help-time = Endet nach dieser Zeit, notfalls mitten im Durchgang; was fertig war, zählt.
recipe-help-until = Endet zu dieser Uhrzeit nach der Uhr dieses Rechners. Geht sie falsch, endet er zur falschen Zeit.
recipe-help-stop = Endet nach so vielen Fehlern. Ein Tauschplan braucht nur den ersten.
recipe-help-memory = Wie viel Speicher belegt und getestet wird. „Alles“ lässt nichts aus, was erreichbar ist.
recipe-help-range = Nur Speicher zwischen diesen Adressen, wo Adressen bekannt sind.
recipe-help-divide = Die Kerne teilen sich den Speicher und arbeiten gleichzeitig. Das ist am schnellsten.
recipe-help-each = Jeder Kern testet den ganzen Speicher, einer nach dem anderen. So zeigt sich ein defekter Kern.
recipe-help-divide-nodes = Die Kerne teilen sich den Speicher und arbeiten gleichzeitig. Das ist am schnellsten, testet aber das meiste nur von einem der { $nodes } Knoten aus.
recipe-help-each-nodes = Jeder Kern testet den ganzen Speicher, einer nach dem anderen: Der Speicher aller { $nodes } Knoten wird aus der Nähe und aus der Ferne getestet.
recipe-help-cores = Wie viele der nutzbaren Kerne arbeiten.
recipe-help-per-test = Wie jeder Test es braucht: Was ein Durchlauf in den Caches lässt, wird geleert, wo der nächste es fände.
recipe-help-flush = Die Caches werden nach jedem Durchlauf geleert. Das ist langsamer.
recipe-help-waits = Wie lange die wartenden Tests den Speicher in Ruhe lassen.
recipe-help-warmth = Läuft nach den Durchgängen weiter, bis die Temperatur zehn Minuten gleich blieb, und sagt, ob Wärme eine Rolle spielt. Ohne Fühler zählen nur die Durchgänge.
recipe-help-sound = Der Ton des Terminals beim ersten Fehler und am Ende eines Laufs.

report-being-made = Der Bericht wird zusammengestellt.
report-below = { $below } weitere Zeilen

report-purpose = Bericht: was zur Theke geht
key-write-report = Bericht schreiben
key-owner-language = Sprache des Besitzers

run-enter = Enter { $words }{"   "}
run-esc-full = { $next }Esc ganzer Lauf
run-taking = Speicher wird vom System belegt: { $taken } von { $of }
run-not-made = Der Lauf war nicht möglich
run-nothing-tested = Nichts wurde getestet. Mit 3 das Rezept ändern oder mit Enter erneut versuchen.
run-none = Kein Lauf seit dem Start des Programms.
run-choose = wählen, was laufen soll{"   "}
run-earlier = frühere Läufe

run-purpose = Lauf
key-across = aus der Ferne
key-in-full = ganzer Lauf
key-select-test = Test wählen
key-go-to-test = zum Test gehen

speed-not-yet = In diesem Auftrag noch nicht gemessen.
speed-about = Enter misst Lesen, Schreiben und Kopieren über Arbeitsmengen jeder Größe und sagt, ob der Speicher so schnell ist, wie bei dieser Bestückung zu erwarten. Ein falscher Steckplatz, ein ausgefallener Kanal oder ein ausgeschaltetes Profil zeigt sich sofort.
speed-taking = Speicher belegen
speed-repeat = Wiederholung { $repeat } von { $repeats }   { $kind } über { $bytes }, { $cores }
speed-said-later = Was es bedeutet, steht hier, wenn alles einmal gemessen ist.
speed-other-arrangement = In anderer Bestückung oder mit anderen Einstellungen gemessen: für diese neu messen.
speed-compared = Verglichen mit { $machine }, { $when }{ $same }; jede Prozentzahl ist der Anteil dieser Messung an jener.
speed-same = , gleiche Bestückung
speed-differs = , andere Bestückung oder Einstellungen
speed-share-of = { $share } % von { $most }
speed-reading = Lesen{"  "}
speed-bandwidth = Durchsatz
speed-none-larger = noch keine Arbeitsmenge war größer als die Caches
speed-channel = Kanal
speed-channels = Kanäle
speed-peak = { $peak }, { $count } { $channels } mit { $speed } MT/s
speed-theoretical = Spitze, theoret.
speed-latency = Latenz
speed-lowest = kleinstmöglich
speed-timings-only = { $ns } ns (nur DRAM-Zeiten)
speed-compared-to = {"  "}verglichen
speed-non-temporal = nicht-temporal
speed-random-load = zufälliges Lesen
speed-caches = Caches
speed-large-pages = große Seiten
speed-of-measured = { $share } % des gemessenen Speichers
speed-times-each = je { $repeats }-mal
speed-stopped-early = vorzeitig beendet
speed-measured = gemessen
chart-bandwidth = Durchsatz, { $cores }
chart-one-core = Durchsatz, ein Kern
chart-waits = ein Lesen, das auf das vorige wartet, in zufälliger Folge
chart-width = Durchsatz nach Breite jedes Zugriffs, ein Kern
chart-distance = ein Lesen nach dem Abstand zum nächsten, ein Kern
chart-nothing = noch nichts zu zeichnen
chart-non-temporal = nicht-temporal
chart-read-compared = Lesen, verglichen
chart-working-set = Arbeitsmenge jedes Kerns
chart-compared = verglichen
chart-memory = Speicher
chart-cache = Cache
chart-bits = Bits eines Zugriffs
chart-first-cache = erster Cache
chart-distance-between = Abstand zwischen Lesezugriffen

speed-purpose = Tempo: wie schnell der Speicher ist
key-select-chart = Diagramm wählen
key-stop-at-once = sofort beenden
key-measure-again = erneut messen
key-measure = messen
key-compare = vergleichen
key-measure-all = allen Speicher messen

removed = entnommen

swap-closed = Dieser Auftrag ist abgeschlossen: { $answer }
swap-because = denn
swap-if-errors = bei Fehler
swap-if-clean = fehlerfrei
swap-settings = Einstellungen in Kraft: { $now }; die Firmware bietet { $all }
swap-dark = stumm
swap-as-installed = die jetzige Bestückung testen (nicht den vorgeschlagenen Schritt)
swap-automatically = {" "}Er beginnt in { $seconds } s von selbst; jede Taste hält das an.
swap-as-planned = Wie geplant bestückt: noch { $passes ->
        [one] { $passes } Durchgang
       *[other] { $passes } Durchgänge
    }.{ $soon }
swap-not-as-planned = Nicht wie geplant bestückt: { $differences }. Auch ein Lauf in dieser Bestückung zählt.
swap-clean = Kein Lauf dieses Auftrags fand einen Fehler: es gibt kein Teil zu suchen. Ein längerer Lauf mit Rechenlast findet seltenere Fehler: 3 wählt die Tiefe. Bleibt der Speicher sauber, der Reihe nach ansehen:
swap-found = FUND
swap-open = OFFEN
swap-order = kaufen
swap-no-tables = Die Tabellen der Firmware sind nicht lesbar, deshalb sind Module hier unbekannt. Von Hand: ausschalten, Stecker ziehen, alle Module bis auf eines herausnehmen, laufen lassen, und ebenso mit jedem anderen. Aufschreiben, welches steckte; das Protokoll jedes Laufs steht unter 8.
swap-nothing-run = In diesem Auftrag lief noch nichts. Zuerst alle Module zusammen testen.
swap-proof = BEWEIS
swap-next = WEITER
swap-cost = { $minutes } min Handarbeit; Test { $machine }, endet beim ersten Fehler
swap-suspicion = Verdacht

swap-by-slot = Ergebnis je Steckplatz
swap-known-good = bekannt gut
col-run = Lauf
col-duration = Dauer
col-effect = Wirkung
swap-hidden = { $hidden } frühere Läufe sind nicht zu sehen: u zeigt alle
swap-up = steigt
swap-down = sinkt
swap-excluded-because = { $mark } ausgeschlossen, { $reason }
swap-clean-passes =
    { $mark } fehlerfrei, { $passes ->
        [one] { $passes } Durchgang
       *[other] { $passes } Durchgänge
    }

known-day = ein Tag
known-week = eine Woche
known-month = ein Monat
known-clean = lief fehlerfrei
known-failed = versagte
known-elsewhere = { $name } { $how } in einem anderen Rechner{ $mark }
known-good = { $name } ist bekannt gut{ $mark }
known-noted = {"   "}notiert; Enter entfernt es
known-refuses = Diese Hauptplatine startet nicht mit Modulen nur in { $slots }{ $mark }
known-returned = kam wieder in
known-not-returned = kam nicht wieder in
known-complaint = In dieser Bestückung: Die Klage { $how } { $time } Benutzung
known-borrow = { $module } aus { $machine } leihen, bekannt gut

steps-line = { $step }   { $hands } min Handarbeit, Test { $machine }
steps-other = Andere Schritte, der aufschlussreichste je Minute zuerst. Auch von Hand umgesetzte Module zählen.
steps-none = Es gibt keinen anderen Schritt.
exclude-title = Einen Lauf ausschließen: er zählt nicht mehr als Beleg. Enter nimmt ihn wieder auf.
exclude-none = In diesem Auftrag gab es noch keinen Lauf zum Ausschließen.
module-in-slot = { $id } in { $slot }
exclude-excluded = {"   "}ausgeschlossen
exclude-line = Lauf { $at }   { $headline }   { $names }{ $excluded }
known-title = Was ist sonst bekannt? Alles ist freiwillig und zählt als Beleg.
known-no-module = In diesem Auftrag ist kein Modul bekannt.

swap-purpose = Tausch: welches Teil es ist
key-remove-insert = heraus, hinein
key-select-module = Modul wählen
key-other-settings = andere Einstellungen
key-other-steps = andere Schritte
key-exclude-run = Lauf ausschließen
key-add-known = Bekanntes ergänzen
key-reopen-job = Auftrag wieder öffnen
key-close-job = Auftrag abschließen
key-start-planned = geplanten Lauf starten
key-test-arrangement = diese Bestückung testen
key-do-step = Schritt tun, testen
key-just-run = testen
key-write-step = Schritt notieren
close-not-named = das Teil wurde nicht benannt.
close-damaged = die Aufzeichnung ist beschädigt: das Ergebnis ist unbekannt.
close-no-error = kein Lauf fand einen Fehler.
swap-stop-settings = Ein Lauf ist im Gang. Erst beenden, dann Einstellungen ändern.
swap-stop-move = Ein Lauf ist im Gang. Erst beenden, dann Module umsetzen.
swap-no-slots = Auf diesem Rechner sind keine Steckplätze bekannt: es gibt nichts umzusetzen.
swap-soldered = Der Speicher in { $id } ist verlötet: er lässt sich nicht entnehmen.
swap-none-removed = Kein Modul ist entnommen. Erst eines aus einem Steckplatz nehmen.

chosen-changed = { $depth }, geändert

doing-report = Bericht wird zusammengestellt
doing-write-report = Bericht wird geschrieben
doing-search = Aufzeichnungen werden durchsucht
doing-read = Aufzeichnungen werden gelesen
doing-locate = es wird geortet, wo Fehler sind
doing-open-job = Auftrag wird geöffnet
doing-drives = Laufwerke werden gesucht
doing-measurements = Messungen werden gesucht
doing-at-work = bei der Arbeit

# terminal.rs
needs-terminal = Der ganze Bildschirm braucht ein Terminal; `revisum check` läuft ohne

drives-cannot-list = Die Laufwerke lassen sich nicht auflisten: { $error }.
drives-image-gone = Das Abbild ist nicht mehr da.
drives-nothing-written = Auf { $drive } wurde nichts geschrieben


late-drive = dem neuen Laufwerk
drive-refuses-run = das Laufwerk nimmt die Aufzeichnungen des letzten Laufs nicht an
drive-refuses-job = das Laufwerk nimmt die Aufzeichnungen des Auftrags nicht an
speed-being-measured = Das Tempo wird gemessen. Das Ende abwarten oder beenden: x unter 7.

recipe-written = Nach { $path } geschrieben. o öffnet die Rezepte dieses Ordners, und revisum check --recipe lässt eines laufen.

report-written = Nach { $folder } geschrieben: { $files }.

speed-run-in-progress = Ein Lauf ist im Gang: einer würde den anderen bremsen. Das Ende abwarten oder ihn beenden.
speed-not-measured = Das Tempo war nicht zu messen: { $why }
speed-stopped = Beendet, bevor alles einmal gemessen war: nichts wird behalten.
speed-nothing-compare = Nichts zum Vergleichen: weder dieser Rechner noch ein gleicher wurde je gemessen.

# room/view.rs: ein Wort je Ansicht, 49 Buchstaben zusammen
view-jobs = Jobs
view-intake = Fall
view-board = Board
view-recipe = Rezept
view-run = Lauf
view-locate = Orte
view-swap = Tausch
view-speed = Tempo
view-logs = Logs
view-report = Bericht

hands-settings-stay = Die Einstellungen bleiben, wie sie sind: { $reason }.
hands-modules-stay = Die Module bleiben, wo sie sind: { $reason }.
hands-not-borrowed = Es lässt sich nicht leihen: { $reason }.

# The course of a job
key-replacement = Ersatz klären
key-part-arrived = Teil ist da
key-list-read = Liste ist gelesen
key-confirm = { $what }
key-hand-over = übergeben, Bericht
key-show-report = Bericht zeigen
order-title = Was kommt an die Stelle von { $modules }?
order-and = {" "}und{" "}
order-ordered = Bestellt: es kommt später
order-here = Es ist da: jetzt einbauen
order-nothing = Nichts: der Computer geht ohne es zurück
course-now = jetzt
course-await = Das neue Modul einbauen, sobald es da ist; Revisum erkennt es.
course-confirm = bevor der Computer geht
course-suspects = Mit den Tests, die zu dieser Beschwerde gehören, trat kein Speicherfehler auf. Als Nächstes prüfen:
close-unproved = Die Reparatur ist nicht bewiesen.
key-add-note = Notiz hinzufügen
note-title = Notiz
intake-note = Notiz
key-how-to-install = Einbau zeigen
course-install = Ausschalten, Netzstecker ziehen, das neue Modul an die Stelle des alten setzen und neu starten: Revisum erkennt es und beweist die Reparatur.
key-install-prove = einbauen, beweisen
key-prove = beweisen: { $depth }

# declared slots, machines that do not start
key-no-start = startet er?
key-declare-slots = Steckplätze angeben
key-declare-module = Modul angeben
key-fitted-as-planned = wie geplant umgesteckt
key-other-machine = Rechner nicht hier
dark-title = Mit den Modulen, wie sie jetzt stecken oder wie der notierte Schritt sagt: Startet der Rechner?
dark-empty = Es steckt kein Modul: Dass ein Rechner so nicht startet, besagt nichts.
dark-nothing = nein: er bleibt dunkel oder meldet nichts
dark-memory = nein: Töne, Lichter oder Codes, die laut Handbuch Speicher bedeuten
dark-processor = nein: Töne, Lichter oder Codes, die laut Handbuch den Prozessor bedeuten
dark-graphics = nein: Töne, Lichter oder Codes, die laut Handbuch die Grafik bedeuten
dark-starts = ja: er startet
declare-slots = Nichts nennt die Steckplätze dieses Rechners. Wie viele Steckplätze für Speicher hat die Hauptplatine?
declare-count = { $count }: { $names }
declare-names = andere Namen, wie sie auf der Platine stehen
declare-names-title = Namen aller Steckplätze, durch Kommas getrennt:
declare-module = Was auf dem Etikett des Moduls in { $slot } steht:
declare-example = Größe, dann Seriennummer oder was darauf steht: 8 GB 12AB34CD, oder 8 GB roter Punkt.
declare-empty = Eine leere Zeile: In diesem Steckplatz ist kein Modul.
declare-no-size = In „{ $typed }“ steht keine Größe. So schreiben wie auf dem Etikett, zum Beispiel 8 GB 12AB34CD.
declare-numbered = Modul { $number }
strip-declared = angegeben
runs-not-of-saved = Gespeicherte Angaben: Von diesem Computer ist nichts hier, also kann nichts auf ihm laufen. Auf dem Computer selbst testen, vom Startlaufwerk aus.
saved-facts = gespeicherte Angaben, nichts wird behalten
saved-facts-short = gespeicherte Angaben
board-next-saved = Lesen, was gefunden wurde: Enter zeigt alle Angaben mit ihren Quellen, 8 was die Protokolle sagen. Hier kann nichts laufen.
board-memory-fitted = { $bytes } eingebaut
runs-elsewhere = Dieser Rechner steht woanders: Von hier aus läuft auf ihm nichts. Ihn vom Startlaufwerk starten; was er tut, ohne zu starten, wird mit p eingetragen.
elsewhere-title = Name des Rechners, der nicht hier ist:
elsewhere-words = Sein Auftrag liegt hier: was er tut, welche Module umgesteckt wurden und ob er startet. Läufe macht der Rechner selbst, vom Startlaufwerk.
swap-started = startete
swap-no-start = kein Start
note-plus = Mit + beginnen, damit die Notiz im Bericht für den Besitzer steht.
intake-answered = notiert
intake-was-seen = { $answer } (hier gesehen)
intake-was-said = { $answer } (Besitzer)
key-seen-or-said = hier gesehen / Besitzer sagt
key-put-back = alles zurückstecken
course-put-back = Alle Module wieder so einsetzen, wie sie kamen: Was defekt ist, behebt keine Bestückung, oder es ist nicht bekannt.
stage-narrowed = eingegrenzt

# welcome.rs
welcome-word = START
welcome-memory = { $size } Speicher
welcome-drivers = Treiber werden geladen
welcome-drive = das Laufwerk mit den Ergebnissen wird gesucht
welcome-drive-for = das Laufwerk mit den Ergebnissen wird gesucht: { $seconds } s
welcome-then = dann die Bestückung und ein erster Blick auf den Speicher
welcome-keys = Tasten werden schon angenommen. Sie wirken, sobald das Laufwerk gefunden ist.
welcome-pressed = Angenommen, und ausgeführt, sobald das Laufwerk gefunden ist: { $keys }

# wall
key-wall = alle Rechner des Ladens: die Wand
wall-unnamed = ein Rechner
wall-large-ready = BEREIT
wall-no-run = noch kein Lauf
wall-silent = STUMM seit { $time }: nach Rechner, Bildschirm und Kabel sehen
wall-next = Weiter: { $step }
wall-waits = Er wartet auf jemanden
wall-heard = vor { $time } gehört
wall-ends = endet { $time }
wall-full = HIER NICHT KOPIERT: die Festplatte dieses Rechners ist voll
wall-not-kept = HIER NICHT KOPIERT: die Aufzeichnungen lassen sich nicht schreiben
wall-title = { $shop }   { $address }
wall-counts = { $all ->
    [one] 1 Rechner
   *[other] { $all } Rechner
} · { $hands ->
    [0] keiner wartet auf Sie
    [one] 1 wartet auf Sie
   *[other] { $hands } warten auf Sie
}{ $silent ->
    [0] { "" }
    [one] { "" } · 1 ist stumm
   *[other] { "" } · { $silent } sind stumm
}
wall-key-open = { $machine } öffnen
wall-key-select = wählen
wall-key-sound-off = Ton aus
wall-key-sound-on = Ton an
wall-key-leave = verlassen
wall-nobody = Noch ist kein Rechner mit diesem verbunden.
wall-how-drive = Rechner, die von einem Laufwerk starten, das hier mit „revisum drive write --shop“ gemacht wurde, verbinden sich, sobald sie an sind und ihr Netzwerkkabel steckt.
wall-how-address = Sie finden diesen Rechner im örtlichen Netz. Wo sie es nicht können, machen Sie das Laufwerk mit „--counter“ und einer dieser Adressen:
wall-col-number = Nr.
wall-col-slots = Plätze
wall-col-ends = Ende
wall-col-next = weiter
wall-picture-comes = Sein Bildschirm kommt gleich.
wall-bar = { $machine }: Tasten gehen an diesen Rechner.   Strg-W zurück zur Wand
wall-bar-silent = { $machine }   { $words }   Strg-W zurück zur Wand
wall-shop = Revisum-Laden
wall-not-opened = dieser Rechner kann nicht auf { $address } hören
wall-unannounced = OHNE ADRESSE NICHT ZU FINDEN: { $why }
linked-to = verbunden mit { $shop }
linked = verbunden
linked-searching = sucht die Theke des Ladens
linked-not = nicht verbunden
linked-broken = keine Theke antwortet
link-card-unreadable = Die Karte des Ladens auf diesem Laufwerk ist nicht lesbar ({ $why }). Der Rechner wird trotzdem getestet und ist nicht auf der Wand. Das Laufwerk mit „--shop“ neu machen.
wall-silent-short = stumm
wall-heard-now = eben gehört
wall-stage = Auftrag: { $stage }

# locate: channels by timing
key-by-time = Kanäle durch Zeitmessung finden
locate-by-time = Zeitmessung
by-time-pairs = Paare von Wörtern werden gemessen
by-time-streams = Ströme werden gemessen
by-time-warming = Module werden erwärmt: { $done } von höchstens { $of } Runden. Was die Zeitmessung fand, bleibt auch nach dem Anhalten
by-time-going-on = Kanäle werden durch Zeitmessung gesucht. Das Ende abwarten oder anhalten: x unter Orte.
by-time-stopped = Angehalten, bevor etwas bekannt war.
by-time-no-addresses = Physische Adressen sind hier unbekannt (nur root darf sie sehen): Zeitmessung sagt nichts.
by-time-no-rows = Zeitmessung sagt hier nichts: Kein Paar von Wörtern dauert länger als andere. Eine virtuelle Maschine verbirgt ihre Zeilen, oder der Speichercontroller schließt jede Zeile nach Gebrauch.
by-time-no-channels = Zeitmessung fand Bänke und keine Kanäle: Es gibt einen Kanal, oder die Kerne können nicht mehr als einen füllen.
by-time-open = Zeitmessung ließ es offen: Die Messungen widersprechen sich. Behauptet wird nichts.
by-time-slots = { $count } Kanäle gefunden, ihre Steckplätze an der Wärme der Module. Eine Karte ist aufbewahrt; u geht danach.
by-time-halves = { $count } Kanäle gefunden und aufbewahrt: Fehler lassen sich einer Hälfte der Adressen zuordnen, keinem Steckplatz.
by-time-no-mainboard = { $count } Kanäle gefunden. Nicht aufbewahrt: Nichts sagt, welche Hauptplatine das ist.
by-time-not-usable = { $count } Kanäle gefunden; welche Steckplätze daran hängen, ist nicht bekannt.
