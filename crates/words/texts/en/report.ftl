# All words of the report in English. The other language has the same keys; a test compares them.

report = Memory report
made = Made { $when }
by = by { $technician }
machine = Computer
owner = Owner
told = Complaint
changed = Changed before
tried = Tried before
job = Job
simulated = Everything in this report comes from a simulated computer.
open-note = The work is not finished: this is how far it has come.
page = Page { $page } of { $pages }

# The answer, with the part in the words of an owner.
next = What to do next
sure = How sure

verdict-module = The memory module { $module } is faulty.
verdict-unfit = The memory module { $module } is good, but incompatible with this computer.
verdict-slot = The memory slot { $slot } of the mainboard is faulty.
verdict-no-part = No part is broken. A module was poorly seated, or it was a one-off error.
verdict-combination = The module { $module } works alone and fails with the others installed.
verdict-pair = The modules { $module } and { $other } are each good, but do not work together.
verdict-settings = The memory settings in the firmware are too fast for this computer.
verdict-controller = The memory controller fails: it is part of the processor and reached through the mainboard.
verdict-two = The memory modules { $module } and { $other } are both faulty.
verdict-module-slot = The memory module { $module } and the slot { $slot } are both faulty.
verdict-other = Memory fails, and no single part explains it.
verdict-open = One of these: { $parts }.
verdict-unproved = Probably { $part }. This is not proved: no run was possible without it.
verdict-going-on = Not decided yet. Most suspect so far: { $part }.
verdict-clean = No error was found in what was tested. This rules out faults that show often, not rare ones.
verdict-nothing = Nothing was tested yet.
verdict-unfinished = No error was found, but no run was complete and long enough to rule anything out.
verdict-not-whole = Records of this job are damaged, so a missing error proves nothing.
record-lost = { $count ->
    [one] The record of one run or of this job is damaged or missing. Its content is not in this report.
   *[other] { $count } records of this job are damaged or missing. Their content is not in this report.
}
verdict-believe = The tester failed its self-check. The result is void.

part-module = the module { $module }
part-unfit = the module { $module }, good, but incompatible with this computer
part-slot = the slot { $slot }
part-no-part = poor seating or a one-off error
part-combination = { $module } with others installed
part-pair = { $module } and { $other } together
part-settings = the memory settings
part-controller = mainboard or processor
part-two = the modules { $module } and { $other }
part-module-slot = the module { $module } and the slot { $slot }
part-other = something else

band-095 = very likely
band-050 = likely
band-005 = possible
band-000 = unlikely

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
  }, and no run was possible without it.
why-beside = { $failed ->
    [one] One run with it and others installed failed
   *[other] { $failed } runs with it and others installed failed
  }; with it alone, and without it, all were clean{ $passes ->
    [0] .
    [1] , one full pass at the longest.
   *[other] , { $passes } full passes at the longest.
  }
why-touched = After reseating the modules, the first arrangement ran clean.
why-settings = With the fast settings it failed, at the standard settings it ran clean.
why-best = It explains the runs better than any module or slot.
clean-worth = { $runs ->
    [one] The strongest clean run
   *[other] The { $runs } strongest clean runs, with the same modules, settings and tests,
  } took { $time } and { $passes ->
    [one] one full pass
   *[other] { $passes } full passes
  }. Ruled out with 95 % confidence: random faults more often than once in { $interval }, and faults that show in more than { $percent } % of passes. Rarer faults are not ruled out.

# What to do.
do-replace = Replace the module; see the order below.
do-elsewhere = Before scrapping it, test it in another computer. If it passes there, it is good but incompatible with this one.
do-use-elsewhere = Use it in another computer. Loading the firmware's defaults and updating the firmware is sometimes enough.
do-combination = First load the firmware's defaults and update the firmware. If it still fails, replace the module, preferably with the same part number as the others.
do-pair = Keep one of the two and use the other elsewhere. Buy the same part number as the one that stays, or a matched set.
do-slot = Clean the slot and check its contacts. If it still fails, leave it empty, or replace the mainboard.
do-module-slot = Replace the module; leave the slot empty, or replace the mainboard.
do-settings = Leave the fast settings off. If you need their speed: update the firmware, then test them once more overnight.
do-no-part = Buy nothing. Test overnight: a contact can come loose again.
do-controller = Load the firmware's defaults and update the firmware. Reseat the processor and check its cooler. Test the modules in another computer before you replace the mainboard or the processor.
do-other = Look beyond memory: power supply, heat, storage.
do-open-good = Swap in a known-good module of the same kind for each module in turn to settle it.
do-open-set = Replace modules that pass alone and fail together with a matched set.
do-going-on = The next step: { $step }.
do-files = Back up and check your files: those written while memory was bad may be damaged.
do-proof = Then test all modules together once more, with computing load{ $time ->
    [none] .
    [once] . It failed only once before, so a clean run alone does not prove the repair.
   *[other] ; { $time } without an error show with 95 % confidence that it helped.
  }
do-clean-next = If the problem persists, check in this order: system updates; the system's check of its own files; drivers; the firmware; storage and its cables; a fresh installation; then memory again, overnight and under computing load.
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
order-part = Preferably the same part number: { $part }.
order-beside = Combine it with modules of the same kind. If that one is no longer sold, buy a matched set.
order-new = New rather than used. Do not mix registered with unbuffered, or ECC with non-ECC.
order-board = Check the memory support list (QVL) of the { $board }.

# Story.
story = Runs and results
story-none = No run was made.
col-run = run
col-when = when
col-fitted = arrangement
col-settings = settings
col-long = duration
col-passes = full passes
col-result = result
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
times = { $count } × { $result }
struck-out = { $result } (excluded: { $reason })
doubtful-clock = { $when } (this computer's clock was wrong)

# Modules.
modules = The modules
col-module = module
col-kind = kind
col-size = size
col-serial = serial number
col-outcome = disposition
end-replace = replace
end-elsewhere = good, use elsewhere
end-in-question = in question
end-keep = passed, stays
end-untested = not tested
end-unknown = not decided
good = known-good
unnamed = without a serial number

# Where.
where = Where it failed
where-words = { $shape } in { $slots }{ $lanes ->
    [none] {""}
   *[other] , data line (DQ) { $lanes }
  }.
certainty-certain = The slot is certain: no other one is possible.
certainty-assumed = The slot comes from an address map that no run has confirmed yet.
certainty-one-of = It is one of these slots; which one is not known.
certainty-unknown = The slot is unknown.
shape-cell = One cell
shape-column = Cells of one column
shape-row = Cells of one row
shape-bank = Cells all over one bank
shape-lane = One data line, all over
shape-lane-pair = Two data lines
shape-byte-lane = One byte lane
shape-address-line = Words where one address bit has one value
shape-half-module = One rank of a module
shape-whole-module = A whole module
shape-channel = All slots of one channel
shape-decoder-doubles = Pairs of words, one address bit apart
shape-scattered = Single bits here and there
shape-machine = Everything, in every channel
shape-several = One of these: { $shapes }

# Files.
files = What this means for files
files-words = While memory was bad, anything that passed through it may have changed unnoticed: saved documents, installed programs, copies and backups. Compare with older backups. Check the system files. Files that were only read are not affected.

# Detail.
detail = In detail
tested = What was tested
tested-words = { $bytes } of { $fitted } tested ({ $percent } %).
tested-unknown = { $bytes } tested; installed memory unknown.
never = What was never tested
never-rest = { $reason ->
    [chosen] { $bytes } of the memory: left out by choice.
    [firmware] { $bytes } of the memory: kept by the firmware.
    [running-system] { $bytes } of the memory: used by the running system.
    [moved] { $bytes } of the memory: its pages moved while they were being tested.
    [taken-out] { $bytes } of the memory: taken out after a hardware error.
   *[other] { $bytes } of the memory: not every test finished on it.
  }
never-computing = Memory under computing load: no run had that load.
never-overnight = Faults too rare for the time of these runs.
never-modules = These modules were in no run that finished: { $modules }.
never-hot = Hot memory: no temperature was reported.
loads-both = Covered: test patterns and computing load.
loads-patterns = Covered: test patterns. Not covered: computing load.
hottest = Highest module temperature: { $celsius } °C.
order-from = March tests find couplings between cells that lie at least { $bytes } apart. Closer ones may be missed.
order-of-shares = Several cores divided the memory: couplings between cells of different shares may be missed.
heat-only-from = Errors only at { $from } °C and above: the fault shows when it is warm.
heat-no-difference = From { $from } to { $to } °C warmth made no difference to the errors.
rows-by-map = Row disturbance opened up to { $rows } rows of one bank in turns, each at least { $openings } times in 64 ms. The address map named the rows.
rows-by-timing = Row disturbance opened up to { $rows } rows of one bank in turns, each at least { $openings } times in 64 ms. Reads that took longer named the rows: neighbours are likely, not certain.
rows-guessed = Row disturbance read up to { $rows } words in turns, at distances where rows of one bank often lie. Whether it opened rows is not known.
tests = Tests of run { $run }
col-test = test
col-finished = passes finished
col-wrong = errors
col-swept = data swept
chart-errors = Errors over time, run { $run }
chart-errors-heat = Errors over time (bars) and temperature (line), run { $run }
chart-grid = Tests and passes, run { $run }
chart-board = The board in run { $run }
axis-minutes = minutes
axis-words = errors
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
log-page-retired = the system excluded a memory page
log-corrected = memory errors that were corrected
log-machine-check = the processor reported an error
log-stop-screen = the system stopped with a screen
log-check-clean = the system's memory check found nothing

kept = Where this comes from
kept-words = Program { $program }. The report follows from the journals of the runs named below; their checksum (SHA-256) is { $sum }. The same journals give the same checksum.
signed = This report says what was measured and what follows from it, each with its confidence. It is not a warranty for any part.

speed = How fast the memory is
speed-one-channel = Memory carried { $rate }, { $share } of what { $channels } channels give: all modules share one channel. Move one of them to { $free }.
speed-lost-channel = Memory carried { $rate }, { $share } of what { $channels } channels give, although each has a module: a channel may be lost.
speed-profile-off = Memory carried { $rate }, as expected at { $speed } MT/s. The modules are sold for { $sold } MT/s: their profile is switched off. Switched on it is faster, and has to be tested again.
speed-profile-stored = Memory carried { $rate }, as expected at { $speed } MT/s. The modules hold a faster profile, which is switched off. Switched on it has to be tested again.
speed-tables = Memory carried { $rate }, more than the firmware's tables allow at { $speed } MT/s: they are wrong.
speed-guest = Measured inside a virtual machine: no conclusion is drawn.
speed-small = Reading with all cores what no cache holds; the time of a single load in random order.
half = about half
col-measured = measured
col-speeds = installed, MT/s
col-read = reading
col-latency = one load
