
# go_on.rs
go-on-over = der Lauf { $run } ist vorbei: nichts davon ist übrig. `revisum check` macht einen neuen
go-on-continued = der Lauf { $run } wurde schon fortgesetzt, von { $by }. Mit diesem fortfahren: revisum check --continue { $by }
go-on-void = die Selbstprüfung des Laufs { $run } schlug fehl: nichts davon ist zu glauben, also nichts fortzusetzen. `revisum check` macht einen neuen
go-on-nothing-shown = der Lauf { $run } zeigte keinen Fehler, den ein Test wieder zeigen könnte
go-on-arrangement = der Lauf { $run } wurde mit { $then } gemacht; jetzt ist es { $now }. Die Module zurücksetzen oder einen neuen Lauf machen
go-on-settings = der Lauf { $run } wurde mit den Einstellungen { $then } gemacht; jetzt sind es { $now }. Zurückstellen oder einen neuen Lauf machen
module-in-slot-then = { $module } in { $slot }

# look.rs
look-not-all = die Angaben stehen nicht oder nicht vollständig in { $folder }

# recipe_file.rs
recipe-not-read = das Rezept { $name } ist nicht lesbar
recipe-not-written = das Rezept { $path } lässt sich nicht schreiben
recipe-not-down = das Rezept lässt sich nicht aufschreiben

# recorder.rs
recorder-lost = , { $lost } sind verloren
recorder-not-recorded = { $error }. { $waiting } Einträge warten{ $lost }

# reports.rs
file-not-read = { $file } ist nicht lesbar
folder-not-made = der Ordner { $folder } lässt sich nicht anlegen
file-not-written = { $path } lässt sich nicht schreiben

# runner.rs
runner-no-thread = kein Thread zu bekommen: { $error }. Diesem Benutzer müssen mehr Prozesse erlaubt werden (ulimit -u)
runner-not-begun = der Lauf konnte nicht beginnen
sleep-not-offered = der Test „Schlaf“ kann hier nicht laufen: dieses System bietet kein Suspend-to-RAM. Den Test weglassen oder es in der Firmware erlauben
sleep-no-alarm = der Test „Schlaf“ kann hier nicht laufen: keine Uhr könnte diesen Rechner wieder wecken. Den Test weglassen
sleep-not-allowed = der Test „Schlaf“ braucht root: nur root darf diesen Rechner schlafen legen. Als root ausführen oder den Test weglassen
sleep-remote = der Test „Schlaf“ beginnt nicht über ein Netz: die Verbindung ginge verloren. Am Rechner selbst starten oder den Test weglassen

# wire.rs
simulated-image = ein simuliertes Abbild
no-such-machine = es gibt keinen simulierten Rechner und keine Rechnerdatei namens { $name }. Die Rechner sind: { $names }

# bench.rs
hands-cannot-put = So lassen sich die Module nicht einsetzen: { $reason }.
label = { $name }: { $end }. { $when }, Auftrag { $job }

# timed_run.rs
timing-died = die Zeitmessung endete mittendrin; nichts davon ist aufbewahrt. Sie lässt sich wiederholen
