# All words of the report in English. The other language has the same keys; a test compares them.

report = Memory report
made = Made { $when }
by = by { $technician }
machine = Computer
owner = Owner
told = What was told
changed = What changed before
tried = What was tried before
job = Job
simulated = Everything in this report comes from a simulated computer.
open-note = The work is not finished: this is how far it has come.
page = Page { $page } of { $pages }

# The answer, with the part in the words of an owner.
next = What to do next
sure = How sure

verdict-module = The memory module { $module } is faulty.
verdict-unfit = The memory module { $module } is good, but not made for this computer.
verdict-slot = The memory slot { $slot } of the mainboard is faulty.
verdict-no-part = No part is broken. A module did not sit well in its slot, or it was a single event.
verdict-combination = The module { $module } works alone, and fails beside the others in this computer.
verdict-pair = The modules { $module } and { $other } are each good, but do not work together.
verdict-settings = The memory settings in the firmware are too fast for this computer.
verdict-controller = The memory controller fails: it is part of the processor and reached through the mainboard.
verdict-two = The memory modules { $module } and { $other } are both faulty.
verdict-module-slot = The memory module { $module } and the slot { $slot } are both faulty.
verdict-other = Memory fails, and no single part explains it.
verdict-open = It could not be decided between these: { $parts }.
verdict-unproved = Probably { $part }. This is not proved: nothing could be run without it.
verdict-going-on = Not decided yet. Most suspect so far: { $part }.
verdict-clean = No error came in what was tested. This does not prove that all is well: it rules out faults that show often.
verdict-nothing = Nothing was tested yet.
verdict-unfinished = No error came, but no run was complete and long enough to rule anything out.
verdict-not-whole = Records of this job are damaged: that no error is known of proves nothing.
record-lost = { $count ->
    [one] The record of one run or of this job is damaged or missing. What it told is not in this report.
   *[other] { $count } records of this job are damaged or missing. What they told is not in this report.
}
verdict-believe = A check of the check itself failed. Nothing that this run says can be believed.

part-module = the module { $module }
part-unfit = the module { $module }, good but not for this computer
part-slot = the slot { $slot }
part-no-part = a loose seat, or one event
part-combination = { $module } beside others
part-pair = { $module } and { $other } together
part-settings = the memory settings
part-controller = mainboard or processor
part-two = the modules { $module } and { $other }
part-module-slot = the module { $module } and the slot { $slot }
part-other = something else

band-099 = practically certain
band-095 = very likely
band-080 = likely
band-050 = more likely than not
band-005 = possible
band-000 = hardly

why-with = { $failed ->
    [one] One run with it failed
   *[other] { $failed } runs with it failed
  }; without it the rest ran clean{ $passes ->
    [0] .
    [1] , one full pass at the longest.
   *[other] , { $passes } full passes at the longest.
  }
why-alone = { $failed ->
    [one] One run with it failed
   *[other] { $failed } runs with it failed
  }, and there was nothing to run without it.
why-beside = { $failed ->
    [one] One run with it beside others failed
   *[other] { $failed } runs with it beside others failed
  }; alone, and without it, it ran clean{ $passes ->
    [0] .
    [1] , one full pass at the longest.
   *[other] , { $passes } full passes at the longest.
  }
why-touched = After the modules had been taken out and put back it ran clean, fitted as at first.
why-settings = With the fast settings it failed, at the standard settings it ran clean.
why-best = It explains what the runs showed better than any module or slot does.
clean-worth = { $runs ->
    [one] The clean run that says most
   *[other] The { $runs } clean runs with the same modules, settings and tests that say most
  } took { $time } and { $passes ->
    [one] one full pass
   *[other] { $passes } full passes
  }. Ruled out with 95 % confidence: random faults more often than once in { $interval }, and faults that show in more than { $percent } % of passes. Rarer faults are not ruled out.

# What to do.
do-replace = Replace the module. What to order stands below.
do-elsewhere = Before it is thrown away, try it in another computer: if it runs clean there, it is good and only not made for this one.
do-use-elsewhere = Use it in another computer. Loading the firmware's defaults and updating the firmware is now and then enough.
do-combination = Replace it, best by one of the same part number as the others; first load the firmware's defaults and update the firmware.
do-pair = Keep one of the two and use the other elsewhere. What is bought has the part number of the one that stays, or comes as a matched set.
do-slot = Clean the slot and look at its contacts. If it still fails, leave it empty, or replace the mainboard.
do-module-slot = Replace the module; leave the slot empty, or replace the mainboard.
do-settings = Leave the fast settings off. If their speed was paid for: update the firmware, then try them once more overnight.
do-no-part = No part has to be bought. Let it run overnight: a contact can come loose again.
do-controller = Load the firmware's defaults, update the firmware, look at the processor's seat and cooler; try the modules in another computer before mainboard or processor are blamed.
do-other = Look beyond memory: power supply, heat, storage.
do-open-good = A module of the same kind that is known to be good, in place of each, would decide.
do-open-set = Modules that are clean alone and fail together are replaced by a matched set.
do-going-on = The next step: { $step }.
do-files = Back up, and check the files: those written while memory was bad may be damaged.
do-proof = Afterwards all modules run together once more, with computing load{ $time ->
    [none] .
    [once] . It failed only once before: a clean run alone does not prove that the repair helped.
   *[other] ; { $time } without an error show with 95 % confidence that it helped.
  }
do-clean-next = If the trouble goes on, look at these, in this order: updates of the system; the system's own check of its files; drivers; the firmware; storage and its cables; a fresh installation; then memory again, overnight and under computing load.
do-begin = Run all modules together, with all tests.

next-run = { $fitting }, for { $time }

# Order.
order = What to order
order-module = { $kind }, { $size }{ $speed ->
    [none] {""}
   *[other] , { $speed } MT/s
  }{ $ranks ->
    [none] {""}
    [one] , 1 rank
   *[other] , { $ranks } ranks
  }{ $timings ->
    [none] {""}
   *[other] , timings { $timings } or lower
  }, { $ecc ->
    [yes] with ECC
   *[no] without ECC
  }
order-part = Best the same part number: { $part }.
order-beside = It has to go beside modules of the same kind; if that one is not sold any more, take a matched set.
order-new = New rather than used. Not to be mixed: registered with unbuffered, ECC with plain.
order-board = Ask whether it is on the list of the { $board }.

# Story.
story = What was tried, and what it showed
story-none = No run was made.
col-run = run
col-when = when
col-fitted = what was fitted
col-settings = settings
col-long = how long
col-passes = full passes
col-result = what it showed
fitted-in = { $module } in { $slot }
# The result of a run; the same words as on the screen.
told-void = Self-check failed: result void
told-errors = { $count ->
    [one] { $shown } memory error
   *[other] { $shown } memory errors
  }
told-uncorrectable = { $count ->
    [one] { $shown } uncorrectable hardware error
   *[other] { $shown } uncorrectable hardware errors
  }
told-miscalculated = Computed wrong: { $count ->
    [one] { $shown } number
   *[other] { $shown } numbers
  }
told-corrected = Only corrected errors: { $shown }
told-clean = Clean
told-clean-so-far = Clean so far: { $progress }
told-no-full-pass = Nothing found, but no full pass
told-nothing-tested = Nothing found, but no memory stayed in the test
told-not-whole = Record damaged: nothing found in the rest of it
record-damaged = { $told }, record damaged
progress-first = first pass not finished
progress-passes = { $count ->
    [one] { $shown } pass
   *[other] { $shown } passes
  }
progress-passes-of = { $done } of { $planned } passes
progress-time-of = { $done } of { $planned }
in-place = { $told } in { $place }
in-places = { $told } in { $places } places
in-slots = { $told } ({ $slots })
on-part = { $told } on { $tested } of { $whole }
on-unknown = { $told } on { $tested }, installed memory unknown
ended-plan = { $told }, all passes done
ended-time = { $told }, the time was up
ended-error-limit = { $told }, stopped at the error limit
ended-hand = { $told }, stopped by hand
ended-broke-off = { $told }, broken off by power loss, hang or restart
unproved = { $told }, no self-check ran
shown-again = Shown again: { $told }
not-shown-again = Not shown again: { $told }
struck-out = { $result } (does not count: { $reason })
doubtful-clock = { $when } (this computer's clock was wrong)

# Modules.
modules = The modules
col-module = module
col-kind = kind
col-size = size
col-serial = serial number
col-outcome = what becomes of it
end-replace = to be replaced
end-elsewhere = good, to be used elsewhere
end-in-question = in question
end-keep = ran clean, stays
end-untested = not tested
end-unknown = not decided
good = known to be good
unnamed = without a serial number

# Where.
where = Where it failed
where-words = { $shape } in { $slots }{ $lanes ->
    [none] {""}
   *[other] , data lane { $lanes }
  }.
certainty-certain = The slot is certain: no other one is possible.
certainty-assumed = The slot follows from an address map that nothing has confirmed yet.
certainty-one-of = It is one of these slots; which one is not known.
certainty-unknown = Which slot it is cannot be told.
shape-cell = One cell
shape-column = Cells of one column
shape-row = Cells of one row
shape-bank = Cells all over one bank
shape-lane = One data lane, all over
shape-lane-pair = Two data lanes
shape-byte-lane = One byte lane
shape-address-line = Words where one address bit has one value
shape-half-module = One rank of a module
shape-whole-module = A whole module
shape-channel = All slots of one channel
shape-decoder-doubles = Words that come in twos, one address bit apart
shape-scattered = Single bits here and there
shape-machine = Everything, in every channel
shape-several = Not clear which of these: { $shapes }

# Files.
files = What this means for files
files-words = While memory was bad, anything that passed through it may have been changed without notice: documents that were saved, programs that were installed, copies and backups that were made. Compare with older backups. Check the system's own files. What was only read and never written back is not affected.

# Detail.
detail = In detail
tested = What was tested
tested-words = At most { $bytes } of { $fitted } were tested at once, { $percent } %.
tested-unknown = At most { $bytes } were tested at once; how much is fitted is not known.
never = What was never tested
never-rest = { $reason ->
    [chosen] { $bytes } of the memory: left out by choice.
    [firmware] { $bytes } of the memory: kept by the firmware.
    [running-system] { $bytes } of the memory: used by the running system.
    [moved] { $bytes } of the memory: its pages moved while they were being tested.
    [taken-out] { $bytes } of the memory: taken out after a hardware error.
   *[other] { $bytes } of the memory: not every test finished on it.
  }
never-computing = Memory while the processor is computing hard: no run had that load.
never-overnight = Faults that show so rarely that the time of these runs does not rule them out.
never-modules = These modules, in no run that finished: { $modules }.
never-hot = How it behaves when it is hot: no temperature could be read.
loads-both = The runs had test patterns, and computing load.
loads-patterns = The runs had test patterns, no computing load.
hottest = The modules became at most { $celsius } °C warm.
order-from = March tests find couplings between cells that lie at least { $bytes } apart. Closer ones may be missed.
order-of-shares = Several cores swept, each its share: couplings between cells of different shares may be missed.
heat-only-from = Errors came only at { $from } °C and above: the fault shows when it is warm.
heat-no-difference = From { $from } to { $to } °C warmth made no difference to the errors.
rows-by-map = Row disturbance opened up to { $rows } rows of one bank in turns, each at least { $openings } times in 64 ms. The address map named the rows.
rows-by-timing = Row disturbance opened up to { $rows } rows of one bank in turns, each at least { $openings } times in 64 ms. Reads that took longer named the rows: neighbours are likely, not certain.
rows-guessed = Row disturbance read up to { $rows } words in turns, at distances where rows of one bank often lie. Whether it opened rows is not known.
tests = Tests of run { $run }
col-test = test
col-finished = passes finished
col-wrong = wrong words
col-swept = memory swept
chart-errors = Wrong words over time, run { $run }
chart-errors-heat = Wrong words over time (bars) and temperature (line), run { $run }
chart-grid = Tests and passes, run { $run }
chart-board = The board in run { $run }
axis-minutes = minutes
axis-words = wrong words
axis-celsius = °C

logged = What the computer's own system had logged
logged-more = And { $count ->
    [one] one more.
   *[other] { $count } more.
  }
col-last = last
col-logged = what
col-count = count
col-slot = slot
col-address = address
log-uncorrected = memory error that could not be corrected
log-check-found = the system's memory check found errors
log-page-retired = a piece of memory was taken out of use
log-corrected = memory errors that were corrected
log-machine-check = the processor reported an error
log-stop-screen = the system stopped with a screen
log-check-clean = the system's memory check found nothing

kept = Where this comes from
kept-words = Program { $program }. The report follows from the journals of the runs named below; their checksum (SHA-256) is { $sum }. The same journals give the same checksum.
signed = This report says what was measured and what follows from it with the confidence that stands beside it. It is not a warranty for any part.

speed = How fast the memory is
speed-one-channel = Memory carried { $rate }, { $share } of what { $channels } channels give: all modules share one channel. One of them belongs into { $free }.
speed-lost-channel = Memory carried { $rate }, { $share } of what { $channels } channels give, although each has a module: a channel may be lost.
speed-profile-off = Memory carried { $rate }, as expected at { $speed } MT/s. The modules are sold for { $sold } MT/s: their profile is switched off. Switched on it is faster, and has to be tested again.
speed-profile-stored = Memory carried { $rate }, as expected at { $speed } MT/s. The modules hold a faster profile, which is switched off. Switched on it has to be tested again.
speed-tables = Memory carried { $rate }, more than the firmware's tables allow at { $speed } MT/s: they are wrong.
speed-guest = It was measured inside a virtual machine, so nothing is concluded from it.
speed-small = Reading with all cores what no cache holds; the time of a single load in random order.
half = about half
col-measured = measured
col-speeds = fitted, MT/s
col-read = reading
col-latency = one load
