
boot-no-drive = dafür gibt es kein Laufwerk: einen USB-Stick mit FAT anstecken
boot-no-answer = ein Treiber oder ein Laufwerk dieses Rechners antwortet nicht
boot-cannot-continue = Der Tester kann nicht fortfahren; der Grund steht oben. Das sagt nichts über den Speicher dieses Rechners. Er startet in einer Minute neu.
boot-may-still-work = revisum: { $error }. Das Testen geht vielleicht trotzdem.
boot-not-off = revisum: der Rechner schaltete nicht aus ({ $why }). { $rest } Seinen Knopf benutzen.
boot-settings-unreadable = Die Einstellungen des Laufwerks gelten nicht, weil settings.toml darauf nicht zu verstehen ist: { $why }
boot-keyboard-not-set = Die Tastenbelegung aus den Einstellungen des Laufwerks gilt nicht: { $why }
boot-own-memory = { $words ->
        [one] Ein Wort
       *[other] { $words } Wörter
    } in dem Speicher, den dieses Programm selbst gleich benutzt hätte, waren falsch. Es meidet diese Seiten; der erste Lauf zählt die Wörter und testet sie noch einmal.
boot-write-protected = das Laufwerk ist schreibgeschützt
boot-file-system = das Dateisystem für Ergebnisse ist beschädigt, oder das Laufwerk versagt ({ $error }); den Stick neu erstellen
boot-not-started = revisum: der Tester lässt sich nicht starten: { $error }
boot-crashed = Der Tester stürzte in zehn Minuten { $times }-mal ab, zuletzt mit { $death }. Das ist ein Befund: etwas in diesem Rechner ist nicht in Ordnung, Speicher, Prozessor oder Hauptplatine. Was aufgezeichnet war, ist behalten. Der Rechner startet in einer Minute neu.
boot-death = { $seconds } s nach dem Start: der Tester stürzte ab mit { $death }
boot-all-written = Alles ist geschrieben.
boot-not-recorded = NICHT AUFGEZEICHNET: { $why }.
boot-may-be-missing = Der Tester stürzte ab: seine letzten Einträge können fehlen.
boot-drive-out-later = Noch zu tun: den Stick abziehen, wenn der Rechner aus ist. War die Startreihenfolge in der Firmware geändert, sie zurückstellen.
boot-drive-out-now = Noch zu tun: den Stick jetzt abziehen, sonst startet der Rechner wieder davon. War die Startreihenfolge in der Firmware geändert, sie zurückstellen.
boot-drive-stays = Den Stick stecken lassen: der Rechner startet noch einmal davon und testet, was nicht zu erreichen war.

# cli.rs
arg-none-of = das ist keines von { $names }
arg-from-to = angeben als VON..BIS, wie 4K..1G
arg-bytes = das ist eine Zahl von Byte
arg-power = das ist eine Zweierpotenz von 8 bis { $most }
arg-bits = das ist eine Zahl von Bits
arg-number-or-all = das ist eine Zahl oder all
arg-not-a-number = { $text } ist keine Zahl
arg-from-one = das ist eine Zahl von 1 bis { $most }
arg-pace = ein Tempo liegt zwischen 0 (so schnell wie möglich) und 1000000

board-raw-in = Alle Rohdaten liegen in { $folder }.
board-serials-in = Seriennummern stehen darin; --mask lässt sie weg.
cli-simulated = {"   "}simuliert
cli-machine = Rechner    { $machine }{ $simulated }
cli-computer = Computer
cli-mainboard = Platine
cli-firmware = Firmware
cli-processor = Prozessor
cli-controller = Steuerung
cli-settings = Einstell.
cli-unknown = unbekannt
board-saved-only = Speicher   { $fitted } eingebaut; gezeigt werden nur gespeicherte Daten, nichts ist testbar
board-slot-is-empty = leer
board-slot-channel = Kanal { $channel }
board-slots-are-empty = { $count } Steckplätze sind leer: { $slots }
board-is-soldered = verlötet
board-not-known = Nicht bekannt: { $count } (--raw)
board-memory-whole = Speicher   { $bytes } { $whole }
board-raw-machine = Rechner
board-raw-range = {"  "}{ $first } bis { $last }
board-raw-map = Speicherkarte { $source }
board-raw-entry = {"  "}{ $first } bis { $last }  { $bytes }  { $kind }

check-ended-oddly = der Lauf endete unerwartet; sein Journal enthält, was bekannt war
check-not-recorded = revisum: NICHT AUFGEZEICHNET: { $trouble }. Das Ergebnis aufschreiben: es wird nicht behalten.
check-not-shown = revisum: das Ergebnis lässt sich nicht zeigen: { $error }. In Kürze: { $headline }
check-reads-back = { $journal } liest sich anders zurück, als geschrieben wurde
check-other-machine = der Lauf { $id } wurde auf { $machine } gemacht, und dieser Rechner ist { $here }
check-no-memory-there = zwischen { $start } und { $end } gibt es keinen nutzbaren Speicher: der Speicher dieses Rechners endet bei { $last }. Einen Bereich darunter wählen, zum Beispiel 1G..2G
check-asked-too-much = { $bytes } wurden verlangt, und höchstens { $most } sind hier jetzt zu haben. Weniger verlangen oder --memory weglassen, um alles zu testen
check-not-in-job = revisum: { $error }. Der Lauf ist nicht im Auftrag des Rechners eingetragen.
check-taking-about = Speicher belegen etwa { $time },{" "}
check-one-pass = { $before }ein Durchgang etwa { $pass }, { $end }
check-left-out = weggelassen, weil in dieser Tiefe die Zeit fehlt: { $tests }
check-journal = Journal   { $journal }
check-journal-none = Journal   NICHT AUFGEZEICHNET
check-taking = Speicher belegen
check-left = {"  "}noch etwa { $left }
check-progress = Durchgang { $pass }  { $percent } %  { $test } { $notation }  { $errors } Fehler{ $left }

drive-unknown-content = unbekannter Inhalt
drive-refused = {"   "}nicht angeboten: { $why }
drive-line = { $path } { $name } { $bytes }   darauf: { $contents }{ $refused }
drive-none = Kein Wechseldatenträger ist da. Einen anstecken; ein USB-Stick mit 512 MiB ist groß genug.
drive-not-written = auf { $path } wird nicht geschrieben: { $why }
drive-neither = { $drive } ist weder ein angebotenes Laufwerk noch eine beschreibbare Datei ({ $error }). Nichts wurde geschrieben; `revisum drive list` zeigt die Laufwerke
drive-file-lost = Alles in der Datei { $file } geht verloren.
drive-cannot-write = auf { $path } lässt sich nicht schreiben
drive-written = { $bytes } auf { $name } geschrieben und zurückgelesen, { $rate } pro Sekunde. Er kann jetzt abgezogen werden.
drive-as-image = { $bytes } sind wie im Abbild; die Ergebnisse wurden nicht verglichen.
drive-say-saved = Der Rechner startet beim nächsten Mal vom Stick und nicht in dieses System. In allen Programmen sichern, es dann mit --saved bestätigen und neu starten
drive-next-start = Der nächste Start ist einmal von { $entry }. Neu starten, wenn alles gesichert ist.
drive-image-unreadable = das Abbild { $image } ist nicht lesbar: { $error }
drive-on-it = {"  "}darauf: { $content }
drive-all-but-results = Alles außer seinen Ergebnissen geht verloren.
drive-all-lost = ALLES darauf geht verloren.
drive-give-name = zur Bestätigung den Namen mit --name { $name } angeben; nichts wurde geschrieben
drive-type-name = Zum Fortfahren seinen Namen tippen ({ $name }):{" "}
drive-not-its-name = { $typed } ist nicht sein Name, er heißt { $name }. Nichts wurde geschrieben
drive-twice = { $drive } ist zweimal genannt. Es wurde nichts geschrieben
drive-broke-off = das Schreiben brach ab: Das Laufwerk ist nicht fertig, noch einmal schreiben
drive-no-keyboard = Es gibt keine Tastenbelegung { $name }; es gibt { $all }. Es wurde nichts geschrieben
drive-no-number = Die Nummern der Laufwerke gingen über { $last } hinaus. Es wurde nichts geschrieben
drive-nobody-answers = Hier kann niemand antworten: --ask weglassen und mit Optionen sagen, wie die Laufwerke starten sollen. Es wurde nichts geschrieben
drive-question = { $question } ({ $possible }):{" "}
drive-no-answer = { $typed } ist darauf keine Antwort; Enter lässt es wie üblich
drive-ask-number = Nummer des Laufwerks
drive-ask-begin = Wann beginnt der Test
drive-ask-screen = Wo ist der Bildschirm
drive-ask-text = Wie groß ist die Schrift
drive-ask-language = Sprache
drive-ask-keyboard = Tastatur
drive-ask-sound = Ein Ton
drive-ask-shop = Name des Ladens
drive-checking = Abbild prüfen
drive-writing = schreiben
drive-reading-back = zurücklesen

locate-name-a-run = einen Lauf nennen oder --errors DATEI.csv
cli-not-written = { $file } lässt sich nicht schreiben
firmware-without-command = --firmware öffnet den Vollbildschirm mit gespeicherten Angaben; mit einem Befehl `board --firmware DIR` verwenden
locate-no-map-to-write = dieser Lauf ging nach keiner Adresskarte, also ist keine zu schreiben
locate-map-unusable = die Karte im Journal ist nicht brauchbar
locate-map-wrong = revisum: DIE ADRESSKARTE IST FALSCH: { $words }, deren Modul durch Läufe mit einem Modul allein bekannt ist, fallen nicht in seinen Steckplatz. Die Karte wird nicht benutzt.
cli-failing-words =
    { $n ->
        [one] { $n } fehlerhaftes Wort
       *[other] { $n } fehlerhafte Wörter
    }
learned-no-addresses = gelernt    nichts: die Firmware nennt nicht, an welchen Adressen Speicher ist
learned-kept = gelernt    behalten in { $file }; vorgeschlagen, wenn diese Bestückung wiederkommt
learned-fits = revisum: Auf dieser Hauptplatine wurde mit derselben Bestückung eine Karte der Steckplätze gelernt. --learned geht nach ihr.
learned-nothing-yet = gelernt    noch nichts: nötig sind Fehler mit mehreren Modulen und Läufe jedes Moduls allein, die zeigen, welches sie hat
learned-from = gelernt    aus { $words }
cli-words =
    { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörtern
    }
locate-not-understood = revisum: { $lines } weitere Zeilen nicht verstanden
locate-no-lines = { $file } enthält keine Zeile mit address,expected,actual
cli-not-read = { $file } ist nicht lesbar
locate-cli-likely = vermutlich { $causes }
locate-cli-then = , dann{" "}
locate-cli-again = erneut     { $again }
locate-cli-outside = außerhalb  { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörter
    } außerhalb der Karte
locate-cli-limit = Grenze     { $limit }
locate-cli-more = … und { $n ->
        [one] { $n } weitere Gruppe
       *[other] { $n } weitere Gruppen
    } (--json)
locate-cli-no-workaround = Kein Notbehelf: { $why }.
locate-cli-many = viele Datenleitungen
locate-cli-group = { $slot } { $group } { $words }  { $lanes } ab { $first }
cli-words-plain =
    { $n ->
        [one] { $n } Wort
       *[other] { $n } Wörter
    }
locate-cli-workaround = Bis das Modul ersetzt ist, lassen sich diese Bereiche ausschließen; das kostet { $bytes }.
locate-cli-kernel = Linux, Kernel-Parameter    { $parameters }
locate-cli-grub = Linux, GRUB-Einstellungen  { $settings }
locate-cli-windows = Windows, als Administrator { $line }

logs-modules-are = { $modules } Module stehen in { $file }.
logs-one-by-one = revisum: { $why }; die Journale werden einzeln gelesen
logs-no-module = Kein Lauf hat ein Modul { $serial }.
logs-left-out = revisum: ausgelassen: { $problem }
logs-no-words = Kein Lauf hat diese Wörter
logs-no-runs = Keine Läufe in { $folder }. `revisum check` macht einen
logs-simulated = {"  "}simuliert
logs-more = { $more } ältere sind ausgelassen; --most listet mehr.

ledger-is-shared = Ab jetzt führt { $server } das Verzeichnis dieses Ordners, unter dem Namen { $name }.
ledger-not-let-go = revisum: was dieser Ordner hält, steht noch auf dem Server: { $why }
ledger-is-own = Ab jetzt wird das Verzeichnis in { $file } geführt.
ledger-aside = revisum: Läufe anderer Ordner fehlen: { $why }
ledger-kept-by = Das Verzeichnis führt { $server }. Darin stehen die Aufzeichnungen von
ledger-kept-here = Das Verzeichnis wird in { $file } geführt. Darin stehen die Aufzeichnungen von
ledger-this-folder = diesem Ordner
ledger-named-here = { $name } (dieser Ordner)
ledger-holding =
    {"  "}{ $name } { $runs ->
        [one] { $runs } Lauf
       *[other] { $runs } Läufe
    }, { $jobs ->
        [one] { $jobs } Auftrag
       *[other] { $jobs } Aufträge
    }
logs-elsewhere = in den Aufzeichnungen von { $name }

demo-no-machine = in der Werkstatt gibt es keinen Rechner dieses Namens

report-follows = der Bericht folgt aus diesen Journalen
report-other-journals = das sind andere Journale
report-checksum = { $words }: ihre Prüfsumme ist { $sum }
language-unknown = es gibt keine Sprache { $tag }; es gibt { $known }

result-simulated = {"  "}(simuliert)
result-clock-wrong = {" "}(die Uhr des Rechners ging falsch)
result-machine = Rechner   { $machine }
result-started = begonnen  { $time }{ $doubtful }
result-took = dauerte   { $time }
result-memory = Speicher  { $memory }
result-continues = {"          "}Setzt den Lauf { $run } fort; alle Zahlen gelten für beide zusammen.
result-repeats-run = {"          "}Wiederholt, was der Lauf { $run } zeigte.
result-no-addresses = {"          "}Physische Adressen sind diesem Benutzer unbekannt.
result-col-test = Test
result-col-passes = Durchg.
result-col-errors = Fehler
result-col-swept = durchlaufen
result-col-rate = Rate
result-guest = ; Anteil und Adressen einer virtuellen Maschine
result-ranges-trusted = ; Anteil und Adressen einer virtuellen Maschine, ihrer Firmware die Steckplätze geglaubt (Test)
result-slot-unknown = Steckplatz unbekannt
result-or = {" "}oder{" "}
result-errors = { $n } Fehler
result-lines = Datenleitungen { $lanes }
result-because = weil           { $why }
result-address-unknown = Adresse unbekannt
result-sample = { $address } erwartet { $expected }  gelesen { $actual }  { $kind }  { $test }

short-of-memory = Für das Programm selbst ist kein Speicher mehr da, deshalb endet es. Was aufgezeichnet ist, bleibt; ein Lauf, der gerade lief, ist einer, der abbrach. Andere Programme beenden oder mit --memory weniger testen.
speed-not-timed = Das Tempo war nicht zu messen: { $why }
speed-stopped-before = Es wurde beendet, bevor etwas gemessen war
speed-pages = Seiten     { $share } % des Gemessenen liegen in großen Seiten
speed-memory-itself = Speicher selbst
speed-set-of-each = , je Kern
speed-loads-apart = Lesezugriffe mit diesem Abstand, ein Kern, Speicher
speed-by-width = { $kind } nach Breite, ein Kern, Speicher
speed-bits = { $bits } Bit { $pad }{ $value }

swap-case-unreadable = der Fall ist nicht von der Standardeingabe zu lesen
swap-cli-job = Auftrag { $machine }   { $runs } Läufe
swap-cli-closed = abgeschlossen: { $answer }
swap-cli-clean = Kein Lauf dieses Auftrags fand einen Fehler: es gibt kein Teil zu suchen. Als Nächstes, der Reihe nach:
swap-cli-found = GEFUNDEN
swap-cli-open = OFFEN
swap-cli-order = kaufen
swap-cli-proof = BEWEIS
swap-cli-next = WEITER
swap-cli-because = denn
swap-cli-if-errors = bei Fehlern { $forecast }
swap-cli-if-clean = wenn sauber { $forecast }
swap-cli-or = oder
swap-cli-step = { $title } { $step }   { $hands } min Handarbeit, Test { $machine }

system-kept-entries = { $entries } Einträge sind im Auftrag behalten.
system-log-nothing = Kein Eintrag handelt von Speicher. { $looked } Das beweist wenig: viele Systeme vermerken nichts davon.

tests-not-march = das ist keine March-Notation: { $error }
      { $notation }
      { $pointer }
tests-no-test = es gibt keinen Test namens { $name }. Die Tests sind: { $names }
tests-notation = Notation     { $notation }
    Länge        { $length }
tests-backgrounds = Hintergründe { $backgrounds }
tests-order = Reihenfolge  { $order }
tests-pass = Durchgang    { $n ->
        [one] { $n } Durchlauf
       *[other] { $n } Durchläufe
    } des Speichers
tests-source = Quelle       { $source }
tests-sees = Speicher     { $sees }
    erkennt nicht { $limits }
tests-on-request = auf Wunsch   Läuft nur, wenn er genannt wird.
tests-as-march = Als March auf einzelnen Bits, berechnet auf einem kleinen Feld:
    
    { $table }
tests-operations =
    { $n ->
        [one] { $n } Operation
       *[other] { $n } Operationen
    }
tests-length =
    { $operations } auf jede Zelle, in { $n ->
        [one] { $n } Durchlauf
       *[other] { $n } Durchläufen
    }

tests-more = `revisum tests NAME` zeigt, was ein Test tut und erkennt.
tests-as-run =
    So, wie er hier läuft, hinter Cache und Schreibwarteschlange: gefunden von zufälligen Zellpaaren mit diesem Abstand, in Prozent; ein Kern
    durchläuft. Wo mehrere Kerne Teile durchlaufen, sind Zellen verschiedener Teile nicht gegeneinander geordnet.

arg-unknown = { $argument } ist hier nicht bekannt.
arg-no-command = Einen Befehl { $command } gibt es nicht.
arg-meant = War { $this } gemeint?
arg-not-one = { $value } ist bei { $argument } nicht möglich. Möglich: { $values }.
arg-refused = { $argument }: { $why }
arg-not-a-value = { $value } ist kein Wert für { $argument }.
arg-missing = Es fehlt: { $arguments }.
arg-without-value = Nach { $argument } fehlt ein Wert.
arg-not-both = { $argument } geht nicht zusammen mit { $other }. Eines davon weglassen.
arg-twice = { $argument } ist mehr als einmal angegeben.
arg-not-understood = Diese Argumente sind nicht lesbar.
arg-see-help = { $command } zeigt, was es gibt.

# rows.rs
rows-no-addresses = Physische Adressen sind hier unbekannt (nur root darf sie sehen): Über Zeilen lässt sich nichts lernen.
rows-none-show = Dieser Rechner zeigt seine Zeilen nicht: Kein Paar von Wörtern dauert länger als andere. Eine virtuelle Maschine verbirgt sie, oder der Speichercontroller schließt jede Zeile nach Gebrauch.
rows-open = Manche Paare von Wörtern dauern länger, aber keine Funktionen von Adressbits erklären sie gut genug. Behauptet wird nichts.
rows-took = dauerte { $seconds } s
rows-found = { $banks } Bänke, gewählt durch { $count } Paritäten von Adressbits:
rows-turns = { $ways } Wege wechseln sich ab, alle { $bytes } Byte.
rows-offset = { $offset } wird von Adressen ab { $from } abgezogen.
rows-step = Die nächste andere Zeile einer Bank: Bits { $bits } umkehren.
rows-simulated = Alles hier ist simuliert.
rows-never-confirmed = Gemessen und an frischen Paaren geprüft. Welcher Steckplatz zu welcher Funktion gehört, folgt daraus nicht; keine echte Hauptplatine hat es bisher bestätigt.
rows-channels = { $count } Kanäle; die Hälfte davon trägt { $part } % dessen, was alle tragen. Gewählt durch:
rows-channels-not-timed = Kanäle: Ströme lassen sich hier nicht messen.
rows-channels-none = Kanäle: Keine Funktion nimmt Bandbreite weg. Es gibt einen Kanal, oder die Kerne können nicht mehr als einen füllen.
rows-channels-open = Kanäle: Die Messungen widersprechen sich. Behauptet wird nichts.
rows-no-thermometers = Nicht jedes Modul hat ein Thermometer, dessen Steckplatz bekannt ist: Erwärmt wurde nichts.
rows-slot-warmed = { $slot } hängt an Kanal { $channel }: Sein Modul wurde wärmer, während dieser Kanal gelesen wurde.
rows-slot-not-warmed = { $slot }: Sein Modul wurde mit keinem Kanal deutlich wärmer.
rows-kept = Aufbewahrt in { $file }. Läufe in dieser Bestückung und „Orte“ gehen danach.
rows-kept-before = Dasselbe war schon aufbewahrt.
rows-kept-no-mainboard = Nicht aufbewahrt: Nichts sagt, zu welcher Hauptplatine es gehört.
rows-kept-not-usable = Nicht aufbewahrt: Es kamen weder zwei Kanäle noch je Kanal ein Steckplatz heraus.
rows-stopped = Angehalten. Gelernt wurde nichts.
rows-stage-pairs = Paare von Wörtern werden gemessen …
rows-stage-streams = Ströme werden gemessen …
rows-stage-warming = Module werden erwärmt: { $done } von höchstens { $of } Runden …

# wall and card
wall-listens = hört auf { $address }
card-shop = Revisum-Laden
card-no-keys = die Schlüssel des Ladens sind nicht lesbar oder nicht zu schreiben
card-not-written = die Karte lässt sich nicht nach { $file } schreiben ({ $why }). Es wurde keine gemacht; eine Datei nennen, die es noch nicht gibt.
card-written = Karte { $id } ist in { $file }. Sie gehört in den Datenordner des Rechners; wer sie hat, gilt als dieser Rechner.
card-line = { $number }  { $id }
card-none = Keine Karte ist in Gebrauch.
card-not-known = keine Karte in Gebrauch heißt { $card }; „revisum card list“ zeigt alle
card-taken-back = Karte { $id } öffnet nichts mehr.
network-no-number = Rechner, die über das Netz starten, teilen sich, was hier gesagt wird; Nummern sind für Laufwerke. „--number“ weglassen.
network-not-empty = { $folder } ist nicht leer. Nichts wurde geschrieben; einen leeren Ordner nennen oder einen, den es noch nicht gibt.
network-no-image = { $image } lässt sich nicht verwenden ({ $why }). Nichts wurde geschrieben; das Abbild mit „cargo xtask image“ neu machen.
network-not-written = { $file } lässt sich nicht schreiben
network-written = { $folder } hat alles, was ein Server ausgibt; dnsmasq.conf darin ist ein Beispiel. Alte Firmware startet mit revisum.pxe, UEFI mit shimx64.efi.
