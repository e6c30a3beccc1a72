# Tests of the catalogue: title, what each is for, and what it cannot say.

test-random = random
    .purpose = Fills all memory with random words and reads them back, then the same with every bit inverted. Finds the most faults for its time.
    .limits = Rare couplings: each pair of cells meets each combination of values only by chance, pass after pass.

test-address-lines = address lines
    .purpose = Writes words whose addresses differ in one bit, one after the other, and checks whether any other word changed. A broken address line or a wrong memory size shows within a second.
    .limits = A few thousand words: it says nothing about the cells in between.

test-address-as-data = address as data
    .purpose = Writes its own address into every word, then the inverse from the top down: two addresses that reach the same cell overwrite each other.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-mats-plus = MATS+
    .purpose = The shortest march that finds every stuck cell and every address that reaches the wrong cell.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-march-c- = march C−
    .purpose = Marches up and down the addresses and inverts every cell twice. Finds cells that stick, fail to change, or disturb another cell.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-lane-groups = data line groups
    .purpose = Drives groups of 1, 2, 4, 8, 16 and 32 data lines against each other: any two lines of a word differ in one of the six, so lines that follow or disturb each other show.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-stripes = stripes
    .purpose = Checkerboard, rows and columns in turn: every cell between neighbours of the opposite value, if the layout is the usual one.
    .limits = Controllers scramble data and addresses: which cells are neighbours is unknown, so stripes may not arrive as stripes. Their complements still do.

test-crosstalk = data line crosstalk
    .purpose = All data lines switch from word to word, on DDR5 from half to half of a word, and one against them: this makes the most noise on that line. Eight lines in each pass, all of them in eight passes.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-row-hopping = row hopping
    .purpose = Random words in an order that opens another row at every step: shows weak sensing and row timing that sequential sweeps never exercise.
    .limits = Each step opens another row of its bank on ordinary machines; which rows is unknown. Memory that the system hands out in small pieces is hopped over piece by piece, with fewer rows.

test-copies = shifted copies
    .purpose = Copies half the memory into the other half, shifted by some words, and checks both: reads and writes mixed as in ordinary work, so that data lines change direction, also between ranks.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-march-lr = march LR
    .purpose = A longer march that also finds couplings that hide each other.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-march-ss = march SS
    .purpose = The longest march: finds every simple static fault of one or two cells, destructive reads and disturbing writes included.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-walking = walking ones and zeros
    .purpose = A single one, then a single zero, on another data line from word to word. Eight of the 64 starting lines in each pass, all of them in eight passes.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-computing = computing under load
    .purpose = Half of the cores transform numbers and check the results bit by bit, while the others sweep random words: caches and controller serve both, as in ordinary use.
    .limits = A light load for the power supply. A wrong result alone does not separate memory from processor.

test-load-steps = load in steps
    .purpose = Half of the cores compute with their widest vectors, all at once, steadily and in bursts of 10 µs to 10 ms, while the others sweep random words: power supply and memory must follow every step.
    .limits = A wrong result alone does not separate memory from processor. Sag of the supply voltage is not measured.

test-idle = idle
    .purpose = Writes random words, leaves the memory alone, and reads; then the same inverted. Finds cells that lose their value without accesses, and trouble with idle states.
    .limits = Refresh continues during the wait: only retention shorter than the refresh interval shows.

test-sleep = sleep
    .purpose = Writes random words, puts the machine to sleep for minutes, and reads; then the same inverted. Finds cells that lose their value in self-refresh.
    .limits = A machine that does not wake up again says nothing about its memory: firmware or drivers are more likely.

test-row-disturbance = row disturbance
    .purpose = Opens 2 to 20 rows of one bank in turns, longer than a refresh interval, and checks all cells for flips. Some modules watch fewer rows than that.
    .limits = Only 16 sets of rows are tried in each round, and modules defend themselves in ways that nobody publishes. Without an address map neighbours are guessed. Clean here says almost nothing.
