
# go_on.rs
go-on-over = the run { $run } is over: there is nothing left of it to do. `revisum check` makes a new one
go-on-continued = the run { $run } was continued already, by { $by }. Go on with that one: revisum check --continue { $by }
go-on-void = the self-check of the run { $run } failed: nothing of it can be believed, so nothing can go on from it. `revisum check` makes a new one
go-on-nothing-shown = the run { $run } showed no error that a test could show again
go-on-arrangement = the run { $run } was made with { $then }; now it is { $now }. Put the modules back, or make a new run
go-on-settings = the run { $run } was made with the settings { $then }; now they are { $now }. Set them back, or make a new run
module-in-slot-then = { $module } in { $slot }

# look.rs
look-not-all = the facts are not, or not all, in { $folder }

# recipe_file.rs
recipe-not-read = the recipe { $name } cannot be read
recipe-not-written = the recipe { $path } cannot be written
recipe-not-down = the recipe cannot be written down

# recorder.rs
recorder-lost = , { $lost } are lost
recorder-not-recorded = { $error }. { $waiting } records wait{ $lost }

# reports.rs
file-not-read = { $file } cannot be read
folder-not-made = the folder { $folder } cannot be made
file-not-written = { $path } cannot be written

# runner.rs
runner-no-thread = no thread can be had: { $error }. More processes have to be allowed to this user (ulimit -u)
runner-not-begun = the run could not begin
sleep-not-offered = the test sleep cannot run here: this system offers no suspend to RAM. Leave the test out, or allow it in the firmware's setup
sleep-no-alarm = the test sleep cannot run here: no clock could wake this machine again. Leave the test out
sleep-not-allowed = the test sleep needs to run as root: only root may put this machine to sleep. Run it as root, or leave the test out
sleep-remote = the test sleep is not begun over a network: the connection would be lost. Start it at the machine itself, or leave the test out

# wire.rs
simulated-image = a simulated image
no-such-machine = there is no simulated machine and no machine file named { $name }. The machines are: { $names }

# bench.rs
hands-cannot-put = The modules cannot be put so: { $reason }.
label = { $name }: { $end }. { $when }, job { $job }

# timed_run.rs
timing-died = timing ended in the middle of it; nothing of it is kept. It can be tried again
