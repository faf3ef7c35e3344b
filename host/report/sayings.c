/* What is said of suspects, in words: the one place where they stand. Names in braces are filled in
 * (words.c); {bits:one|several} chooses by how many there are. A suspect has three texts: where it
 * is, what it does, where to look; a step two: what to do, and what follows from it. */
#include "words.h"

/* clang-format off */
const rmg_words_row rmg_words_rows[] = {
    /* suspects */
    [RMG_SAY_SOCKET_LEVEL] = {"{socket}",
        "{bits} {reads}",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_NEVER_WRITTEN] = {"{socket}",
        "{bits} {bits:is never written: it keeps what it holds|are never written: they keep what "
        "they hold}",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_STALE] = {"{socket}",
        "{bits} {bits:gives|give} what the read before should have given",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_DRAGS] = {"{socket}",
        "it also drives {bits} when {bank2} is read",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_DRAGS_AT_TIMES] = {"{socket}",
        "it also drives {bits} when {bank2} is read, now and then",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_DRAGS_ALWAYS] = {"{socket}",
        "it drives {bits} at every read",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_LINES_TOUCH] = {"{socket}",
        "address lines {lines} touch there, a {level} wins",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_SOCKET_IGNORES_LINES] = {"{socket}",
        "does not follow address line{lines:|s} {lines}",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_CELLS_OF_A_ROW] = {"{socket}",
        "row {n} fails, {m} cells of it",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_CELLS_OF_A_COLUMN] = {"{socket}",
        "column {n} fails, {m} cells of it",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_CELLS_NOW_AND_THEN] = {"{socket}",
        "it fails intermittently, {m} cells so far, the first at {address}",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_CELLS_SCATTERED] = {"{socket}",
        "{m} cells fail, the first at {address}",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_ONE_CELL] = {"{socket}",
        "one cell fails, at {address}",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_ONE_CELL_OF_A_ROW] = {"{socket}",
        "one cell fails, at {address} (row {n}, column {k})",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_BANK_NEVER_WRITTEN] = {"the write line of {bank}",
        "it can be read, but writes have no effect",
        "Do not change chips yet: writes to {bank} have no effect, yet it can be read. Look at its "
        "write line (WE)."},
    [RMG_SAY_BANKS_THE_SAME] = {"the bank select of {bank} and {bank2}",
        "both reach the same cells",
        "Do not change chips yet: {bank} and {bank2} reach the same cells. One of them is never "
        "selected. Look at the bank select."},
    [RMG_SAY_BANK_ANSWERS_TWICE] = {"the select of {bank}",
        "it also answers where {bank2} is addressed",
        "Do not change chips yet: {bank} also answers where {bank2} is addressed. Look at its "
        "select."},
    [RMG_SAY_BANK_DRIVES_ALWAYS] = {"the select of {bank}",
        "it drives {bits} at every read",
        "Do not change chips yet: {bank} drives {bits} at every read. Look at its select."},
    [RMG_SAY_ONCE_SPREAD] = {"noise, supply, refresh or timing",
        "failures that may be chance",
        "Do not change chips yet: {n} read{n:|s} failed in the one pass, at {bits}, no cell twice; "
        "that may be chance. Run it again with more passes."},
    [RMG_SAY_FEW_SPREAD] = {"noise, supply, refresh or timing",
        "failures that do not repeat",
        "Do not change chips yet: {n} read{n:|s} failed so far, at {bits}, not the same ones in "
        "each pass; that may be chance. Run it again with more passes."},
    [RMG_SAY_SPREAD] = {"noise, supply, refresh or timing",
        "failures that do not repeat",
        "Do not change chips yet: the failures are spread over {bits} and differ from pass to "
        "pass."},
    [RMG_SAY_BANK_SILENT] = {"select, strobes or supply of {bank}",
        "no chip answers",
        "Do not change chips yet: no chip of {bank} answers. Look at its select, strobes and "
        "supply."},
    [RMG_SAY_ALL_SILENT] = {"the bus, the link or the supplies",
        "nothing answers",
        "Do not change chips yet: nothing answers. Look at the link, the supplies, clock and "
        "reset."},
    [RMG_SAY_DATA_LINE] = {"data line {bits}{lane}",
        "{reads}",
        "Look at data line {bits}{lane}: it {reads}, in every bank it serves."},
    [RMG_SAY_BRANCH] = {"{span}",
        "the chips beyond it do not follow the line",
        "Look at {where}: {beyond} do not follow it, the chips before it are sound."},
    [RMG_SAY_WRITE_BRANCH] = {"{span}",
        "what is written does not arrive beyond it",
        "Look at {where}: {beyond} are never written, the chips before it are sound."},
    [RMG_SAY_DATA_LINES_TOUCH] = {"data lines {bits} of {bank}",
        "they touch, a {level} wins",
        "Look at data lines {bits} of {bank}: they touch (when one is {level}, both are)."},
    [RMG_SAY_ADDRESS_LINES_TOUCH] = {"address lines {lines} of {bank}",
        "they touch, a {level} wins",
        "Look at address lines {lines} of {bank}: they touch (when one is {level}, both are)."},
    [RMG_SAY_ADDRESS_LINES] = {"address line{lines:|s} {lines} of {bank}",
        "no chip of {bank} follows the line{lines:|s}",
        "Look at address line{lines:|s} {lines} of {bank}: no chip follows {lines:it|them}."},
    [RMG_SAY_SHARED_DATA] = {"data line {bits} on its way to {sockets}",
        "{reads} there, and at no other chip",
        "Look at data line {bits} on its way to {sockets}, before any chip. At all of them, and at "
        "no other, it {reads}."},
    [RMG_SAY_SHARED_OWN_WAYS] = {"data line {bits}",
        "wrong in every bank, but neither cut nor held",
        "Look at data line {bits}, before any chip: it is wrong at each of {sockets}, but not as a "
        "line that is cut or held: rather as one that touches a select, a write line or an address line."},
    [RMG_SAY_SHARED_ADDRESS] = {"address line{lines:|s} {lines} on {lines:its|their} way to "
        "{sockets}",
        "these chips do not follow {lines:it|them}, the others do",
        "Look at address line{lines:|s} {lines} on {lines:its|their} way to {sockets}, before any "
        "chip: none of them follows {lines:it|them}, the others do."},
    [RMG_SAY_SHARED_WRITE] = {"the write line on its way to {sockets}",
        "what is written does not arrive at these chips, at the others it does",
        "Look at the write line on its way to {sockets}, before any chip: what is written does not "
        "arrive there, at the others it does."},
    [RMG_SAY_SHARED_SELECT] = {"the select of {sockets}",
        "none of these chips answers, the others do",
        "Look at the select, strobes and supply on their way to {sockets}, before any chip: none of "
        "them answers, the others do."},
    [RMG_SAY_SAME_STRETCH] = {"the word{n:|s} {stretch}",
        "whole words fail here",
        "Do not change chips yet: at {sockets} {n:one word fails|the same words fail}, {stretch}. Look "
        "for something else that answers or writes there: a port, a ROM, a card, DMA."},
    [RMG_SAY_SAME_WORDS] = {"what {sockets} share",
        "these chips fail in the same words",
        "Do not change chips yet: {sockets} fail in the same words, {n} of them, the first at "
        "{address}. Look at what they share: address lines, supply, timing."},
    [RMG_SAY_SAME_LOSS] = {"the refresh of {sockets}",
        "left alone, these chips lose the same words",
        "Do not change chips yet: left alone, {sockets} lose the same words, {n} of them, the first "
        "at {address}. Look at their refresh."},
    [RMG_SAY_SAME_BIT] = {"data line {bits}",
        "it fails in the same words of several banks",
        "Look at data line {bits}, before any chip: at {sockets} it fails in the same words of each "
        "bank."},
    [RMG_SAY_SAME_BIT_BY_LINE] = {"data line {bits} and address line {lines}",
        "they seem to touch",
        "Look at data line {bits} and address line {lines}, before any chip: at {sockets} {bits} fails "
        "at one level of {lines} only, as where the two touch."},
    [RMG_SAY_WEAK_TOGETHER] = {"supply or timing of {bank}",
        "many of its chips have bad cells",
        "Do not change chips yet: {n} of {m} chips of {bank} have bad cells, each its own. Look at what "
        "feeds them all: supplies, timing."},
    [RMG_SAY_NOW_AND_THEN_LINE] = {"data line {bits} at {sockets}",
        "it fails now and then",
        "Do not change chips yet: what fails, now and then, is all on data line {bits}, at {sockets}. "
        "Look at that line, its joints and what drives it."},
    [RMG_SAY_NOW_AND_THEN_PAIR] = {"data lines {bits} at {sockets}",
        "they touch now and then",
        "Do not change chips yet: what fails, now and then, is all on data lines {bits}, at {sockets}, "
        "now on one of them, now on the other. Look for what lets the two touch."},
    [RMG_SAY_NOW_AND_THEN_BANK] = {"select, strobes, address lines or supply of {bank}",
        "several of its chips fail at once, now and then",
        "Do not change chips yet: several chips of {bank} fail in the same word, now and then. Look "
        "at what they share: select, strobes, address lines, supply."},
    [RMG_SAY_NOW_AND_THEN_ADDRESS] = {"address line{lines:|s} {lines} of {bank}",
        "accesses go astray now and then",
        "Do not change chips yet: now and then accesses to {bank} reach another word, as where address "
        "line{lines:|s} {lines} {lines:stays|stay} at one level. Look at {lines:that line, its|these lines, their} joints and what "
        "drives {lines:it|them}."},
    [RMG_SAY_NOW_AND_THEN_ADDRESS_SOME] = {"address line{lines:|s} {lines} at {sockets}",
        "accesses go astray now and then",
        "Do not change chips yet: now and then accesses to {sockets}, and to no chip beside them, reach another word, as where address "
        "line{lines:|s} {lines} {lines:stays|stay} at one level. Look at the branch of {lines:that line|these lines} that leads to them, its joints and what "
        "drives it."},
    [RMG_SAY_NOW_AND_THEN_SOME] = {"select, strobes, address lines or supply of {sockets}",
        "they fail at once, now and then",
        "Do not change chips yet: {sockets} fail in the same word, now and then, and no chip beside "
        "them does. Look at what they share and the others do not: a branch of a select or strobe, of address lines, of the supply."},
    [RMG_SAY_NOW_AND_THEN_ALL] = {"strobes, address lines or supply of all banks",
        "several data bits fail at once, now and then",
        "Do not change chips yet: several data bits of a word fail at once, now and then, in more "
        "than one bank. Look at what they share: address lines, strobes, supply."},
    [RMG_SAY_METER_CONTRADICTS] = {"line {traced}",
        "what was reported of it contradicts itself",
        "What was reported of line {traced} contradicts itself."},
    [RMG_SAY_METER_LINE] = {"line {traced} between {from} and {to}",
        "what was measured says that it is broken",
        "Look at line {traced} between {from} and {to}."},
    [RMG_SAY_METER_NOT_DRIVEN] = {"line {traced} at {from}",
        "nothing drives it there",
        "Look at what drives line {traced}, at {from}."},
    [RMG_SAY_DATA_NOISY] = {"data line {bits} of {bank}",
        "it follows {by} when {by:that line switches|those lines switch}",
        "Do not change chips yet: data line {bits} of {bank} follows {by} when {by:that line "
        "switches|those lines switch}, and is sound while {by:it is|they are} still. Look at the "
        "line, its driver and the ground."},
    [RMG_SAY_ADDRESS_NOISY] = {"address line {lines} of {bank}",
        "it follows {by} when {by:that line switches|those lines switch}",
        "Do not change chips yet: address line {lines} of {bank} follows {by} when {by:that line "
        "switches|those lines switch}, and is sound while {by:it is|they are} still. Look at the "
        "line, its driver and the ground."},
    [RMG_SAY_REPORTED] = {"{socket}",
        "{bits} {bits:is|are} reported wrong",
        "Look at {socket}, the {part} that holds {bits} of {bank}: {does}."},
    [RMG_SAY_REPORTED_CHIP] = {"{socket}",
        "it is reported bad",
        "Look at {socket}, a {part} of {bank}: {does}, without saying which of its bits."},
    [RMG_SAY_REPORTED_LINE] = {"data line {bits}{lane}",
        "reported wrong in every bank it serves",
        "Look at data line {bits} before any chip: it is {does}."},
    [RMG_SAY_REPORTED_BIT] = {"{bits} of a bank that is not known",
        "reported wrong",
        "Look at {bits}: {bits:it is|they are} reported wrong, but not in which bank. One of: "
        "{sockets}."},
    [RMG_SAY_REPORTED_BANK] = {"select, strobes or supply of {bank}",
        "every bit of the bank is reported wrong",
        "Do not change chips yet: every bit of {bank} is reported wrong. Look at its select, "
        "strobes and supply."},
    [RMG_SAY_REPORTED_BANK_ALONE] = {"{bank}",
        "reported bad, without saying which bits",
        "Do not change chips yet: {bank} is reported bad, without saying which bits. Look at its "
        "select, strobes and supply first."},
    /* reasons */
    [RMG_SAY_NOISE_TRIES] = {"{n} of {m} tries fail while {by} {by:switches|switch} and it {ways}; "
        "next to none while {by:it is|they are} still."},
    [RMG_SAY_NOISE_STILL] = {"The same access made once more, while no line moves, is right: the "
        "lines do not touch."},
    [RMG_SAY_HELD_THE_OTHER] = {"The reads that failed are those during which {socket} held the "
        "other level at the same place."},
    [RMG_SAY_FAILS_LOW] = {"{n} of {m} words tested in {bank} fail at {bits}, always 0 where 1 was "
        "written."},
    [RMG_SAY_FAILS_HIGH] = {"{n} of {m} words tested in {bank} fail at {bits}, always 1 where 0 "
        "was written."},
    [RMG_SAY_FAILS_BOTH_WAYS] = {"{n} of {m} words tested in {bank} fail at {bits}, both ways: 1 "
        "for 0 and 0 for 1."},
    [RMG_SAY_SEEN_BY_WIRING] = {"Found by the wiring check; no cell was tested after it."},
    [RMG_SAY_SEEN_BY_WIRING_ALONE] = {"Found by the wiring check. The data written to the cells do "
        "not reveal it."},
    [RMG_SAY_NO_PASS_ENDED] = {"The run ended before one pass was complete."},
    [RMG_SAY_PORT_WAS_LOST] = {"No whole pass shows it, and then the port was lost: what it gave "
                               "last may not have come from the memory."},
    [RMG_SAY_ONE_PASS] = {"One pass only: whether it repeats is not known."},
    [RMG_SAY_BEGAN] = {"It began in pass {n}: {m} pass{m:|es} before it {m:was|were} clean, and it failed alike in each since; "
                       "warmth, or a supply or joint that gives way, is as likely as age."},
    [RMG_SAY_BEGAN_FIRST] = {"It began during the first pass: the lines were sound before it and not after it, and it "
        "failed alike in each pass since."},
    [RMG_SAY_BEGAN_TOGETHER] = {"{n} places began to fail in the same pass: one cause that they share, a supply, a write "
        "line or a select that gives way, is likelier than as many chips."},
    [RMG_SAY_REPEATS] = {"The same words failed in each of {n} passes."},
    [RMG_SAY_METER_OPEN] = {"Measured: no connection between {from} and {to}."},
    [RMG_SAY_METER_WHOLE] = {"{n} piece{n:|s} of line {traced} {n:was|were} measured and {n:is|are} "
        "whole."},
    [RMG_SAY_PROBE_STILL] = {"Seen with a probe: line {traced} does not move at {from}."},
    [RMG_SAY_PROBE_PULSING] = {"Seen with a probe: line {traced} pulses at {from}."},
    [RMG_SAY_PROBE_LEVEL] = {"Seen with a probe: line {traced} stays at {level} at {from}."},
    [RMG_SAY_UNDRIVEN_HIGH] = {"The board file does not say what undriven lines do; the measurement "
        "says that they read 1 here."},
    [RMG_SAY_UNDRIVEN_LOW] = {"The board file does not say what undriven lines do; the measurement "
        "says that they read 0 here."},
    [RMG_SAY_UNDRIVEN_HOLDS] = {"The board file does not say what undriven lines do; the measurement "
        "says that they hold what was last on the bus."},
    [RMG_SAY_HOLDS_FOR] = {"By the number of reads that failed, the line holds what was last on it for about "
        "{n} accesses ({m} ns at this board's pace), then reads {level}."},
    [RMG_SAY_REPLAY_MORE] = {"A fault here would have made {n} bits fail in the passes, and none did: it "
        "came and went, or it was noise."},
    [RMG_SAY_ONE_OF_SUSPECTS] = {"The failures fit {n} suspects, of which one is at fault, not all."},
    [RMG_SAY_NOT_ALIKE] = {"{n} of {m} passes failed, and not at the same words: a contact, heat, "
        "noise or refresh is as likely as a dead cell."},
    [RMG_SAY_OTHER_BANK_SOUND] = {"{Bank2} is sound at {bits}, so the data line works there."},
    [RMG_SAY_HOLDS_A_LEVEL] = {"Which words fail, and at which bits, follows from the address lines "
        "of {bank} alone: as if a {level} that it holds were read instead."},
    [RMG_SAY_HOLDS_UNKNOWN] = {"What {bank} holds is not known, for it was not tested; always on, it "
        "would spoil the reads of others with just that."},
    [RMG_SAY_OR_UNTESTED] = {"A chip on the same lines, in a bank that was not tested, would look "
        "the same if it were always on."},
    [RMG_SAY_DRAGS] = {"Reading {bank2} gives {level} at {bits} wherever {socket} holds a "
        "{level}."},
    [RMG_SAY_LEVEL_LOST_AT_PINS] = {"What is written with {lines} at one level is read back at the "
        "other: the level does not take effect at {address pins} of {socket}."},
    [RMG_SAY_SIDES_OF_LINE] = {"Which words fail, by their level of {lines}, and in which element of the march, is as where "
        "single accesses go astray at {lines:this line|these lines}."},
    [RMG_SAY_LEVEL_LOST] = {"What is written with {lines} at one level is read back at the other, "
        "in every data bit."},
    [RMG_SAY_ON_THIS_LINE] = {"On this line: {devices}."},
    [RMG_SAY_MIRRORS] = {"So the memory there is really 1/{n} of the size given; the rest mirrors "
        "it."},
    [RMG_SAY_MAY_FOLLOW] = {"Another fault found here may make it look so: repair that first, then test "
        "again."},
    [RMG_SAY_LINES_NOT_CHECKED] = {"The other chips on the same data line fail as a whole too, and this run did not check "
        "the lines: test again with a step `wiring`, which tells the line from the chips."},
    [RMG_SAY_OR_ITS_LINE] = {"The other chips that share this line with {socket} are at fault too and "
        "do not show whether the whole line is: repair those first, then test again."},
    [RMG_SAY_OR_EACH] = {"Two chips of different banks do not answer: each of them may be bad, or a select, strobe or "
        "supply that both share. A probe on their select and strobe pins tells which."},
    [RMG_SAY_SHARED_CAUSE] = {"One fault here explains what would otherwise take {n} bad chips at "
        "once: {sockets}."},
    [RMG_SAY_TRACED_TOGETHER] = {"As traced, the lines join before {point}; the fault lies in what "
        "they share from there on: {chain}."},
    [RMG_SAY_TRACED_DRIVER] = {"As traced, line {traced} begins at {point}; every chip tested on "
        "it is affected."},
    [RMG_SAY_TRACED_AFTER] = {"As traced, line {traced} is shared with sound chips as far as "
        "{before}; the fault lies after it: {chain}."},
    [RMG_SAY_HIDES_CELLS] = {"Faults in the cells behind it cannot be seen until this is "
        "repaired."},
    [RMG_SAY_SOCKETS_AT_ONCE] = {"{n} sockets fail at once: a cause they share is likelier than so "
        "many bad chips."},
    [RMG_SAY_TOLD_NOT] = {"What you reported rules out: {told}."},
    [RMG_SAY_REPLAY_NOT] = {"On the simulated board this would have failed differently, so it is "
        "ruled out: {refuted}."},
    [RMG_SAY_REPLAY_SAME] = {"On the simulated board, this fault gives exactly the same failures: "
        "{fault}."},
    [RMG_SAY_ROM_TELLS_SAME] = {"On the simulated board, the test ROM tells exactly the same of this "
        "fault: {fault}."},
    [RMG_SAY_REPLAY_PASSES] = {"The passes differ just as they do on the simulated board: because "
        "of the data written, not by chance."},
    [RMG_SAY_CAME_AND_WENT] = {"The wiring check found it three times in a row, and {n} clean "
        "pass{n:|es} after that contradict{n:s|} it: it came and went, or it was noise."},
    [RMG_SAY_REPORTS_LOW] = {"{n} failure{n:|s} at {bits} of {bank} {n:is|are} reported, always 0 "
        "where 1 was written."},
    [RMG_SAY_REPORTS_HIGH] = {"{n} failure{n:|s} at {bits} of {bank} {n:is|are} reported, always 1 "
        "where 0 was written."},
    [RMG_SAY_REPORTS_BOTH_WAYS] = {"{n} failures at {bits} of {bank} are reported, both ways: 1 for 0 "
        "and 0 for 1."},
    [RMG_SAY_REPORTS_UNTOLD] = {"{n} failure{n:|s} {n:is|are} reported; whether 0 or 1 was read is not "
        "known."},
    [RMG_SAY_REPORTED_ONCE] = {"One failure only: that may be chance."},
    [RMG_SAY_REPORTS_AT_LEAST] = {"The other program stops reporting after {n}, so these counts are "
        "lower bounds."},
    [RMG_SAY_REPORTS_FEWER] = {"The other program counted more failures than it reported one by "
        "one, so these counts are lower bounds."},
    [RMG_SAY_NOT_OTHER_BITS] = {"The words that are reported are right at the other bits of {bank}."},
    [RMG_SAY_REPEATS_BITS] = {"The same bits were reported in each of {n} passes."},
    [RMG_SAY_REPEATS_WORDS] = {"The same words were reported in each of {n} passes."},
    [RMG_SAY_NO_PASS_REPORTED] = {"No whole pass was reported: whether it repeats is not known."},
    [RMG_SAY_REPLAY_NONE] = {"No fault simulated at this place gives these failures, which speaks "
        "against it."},
    [RMG_SAY_NEEDLESS] = {"The suspects above explain everything that was measured just as well "
        "without it."},
    [RMG_SAY_EXPLAINS_ALL] = {"This one fault explains everything that was measured."},
    [RMG_SAY_EXPLAINS_TOGETHER] = {"Simulated together, the {n} suspects give exactly the same "
        "failures; without this one, {m} failing bits would be unexplained."},
    /* rivals */
    [RMG_SAY_SILENT_CHIP] = {"the chip in {socket}, dead, or one of its supplies is missing"},
    [RMG_SAY_TRACK_TO_THESE] = {"the track that leads to {sockets} and not to the others: cut or "
        "shorted, or a joint on it"},
    [RMG_SAY_PART_TO_THESE] = {"a buffer, multiplexer or resistor that only {sockets} hang on"},
    [RMG_SAY_EACH_OF_THESE] = {"a fault of its own at each of {sockets}"},
    [RMG_SAY_SELECT_TO_THESE] = {"the select or strobe that leads to {sockets} and not to the others"},
    [RMG_SAY_SUPPLY_TO_THESE] = {"a supply that does not reach {sockets}"},
    [RMG_SAY_OTHER_ANSWERS] = {"something else that answers or writes there: a port, a ROM, a card, DMA"},
    [RMG_SAY_NO_RAM_THERE] = {"no RAM there, or write-protected, whatever the board file says"},
    [RMG_SAY_ADDRESS_TO_THESE] = {"an address line, or the buffer or multiplexer that drives it"},
    [RMG_SAY_REFRESH_OF_THESE] = {"refresh that does not come, comes too rarely or leaves rows out"},
    [RMG_SAY_REFRESHED_BY_ACCESSES] = {"no fault: a board that only its own accesses refresh, screen reads "
        "for instance"},
    [RMG_SAY_SUPPLY_WRONG] = {"a supply that is low, noisy or missing at these chips"},
    [RMG_SAY_TIMING_WRONG] = {"strobes or selects of the wrong length"},
    [RMG_SAY_METER_TRACK] = {"the track between {from} and {to}, or a joint at its ends"},
    [RMG_SAY_METER_PART] = {"{point}, the part itself"},
    [RMG_SAY_METER_DRIVER] = {"what drives the line, at {from}"},
    [RMG_SAY_METER_SHORT] = {"a short that holds the line"},
    [RMG_SAY_CHIP_LATCH] = {"the chip in {socket}: its output latch"},
    [RMG_SAY_OUTPUT_UNSTEADY] = {"the chip in {socket}: an output that is not steady"},
    [RMG_SAY_ALL_IN_SOCKET] = {"{socket}, in which all of it lies so far"},
    [RMG_SAY_TRACK_TO_SOCKET] = {"the track to {socket}"},
    [RMG_SAY_ALL_ON_LINE] = {"data line {bits}, on which all of it lies so far"},
    [RMG_SAY_LOOSE_ON_LINE] = {"a joint or contact on the line, or a crack in its track"},
    [RMG_SAY_BUFFER_DRIVES_LINES] = {"the buffer, multiplexer or processor pin that drives {lines:it|them}"},
    [RMG_SAY_SELECT_NOW_AND_THEN] = {"a select or strobe that comes too late, or not at all"},
    [RMG_SAY_ADDRESS_NOW_AND_THEN] = {"an address line, or the buffer or multiplexer that drives it"},
    [RMG_SAY_SUPPLY_NOW_AND_THEN] = {"a supply that drops"},
    [RMG_SAY_CHIP_AT_FAULT] = {"the chip in {socket}: its cells or an output"},
    [RMG_SAY_ONE_OF_CHIPS] = {"one of the chips that hold {bits}"},
    [RMG_SAY_CHIP_ON_LINE] = {"any one chip on {bits}, shorted or always on"},
    [RMG_SAY_LINE_CUT_OR_SHORTED] = {"the track of {bits}, cut or shorted"},
    [RMG_SAY_DEAD_CHIP] = {"the chip in {socket}: dead, or its output is"},
    [RMG_SAY_JOINT_AT_DATA] = {"a joint at {undriven pins}"},
    [RMG_SAY_CONTACT_AT_DATA] = {"a contact of the socket at {undriven pins}"},
    [RMG_SAY_TRACED_STRETCH] = {"{span}"},
    [RMG_SAY_TRACK_TO_DATA] = {"the track to {undriven pins}"},
    [RMG_SAY_TRACK_TO_ADDRESS] = {"the track to {address pins}"},
    [RMG_SAY_TRACK_TO_CHIPS] = {"the track to the chips: cut or shorted"},
    [RMG_SAY_CHIP_MISSING] = {"the chip is missing, or is the wrong part"},
    [RMG_SAY_SHORT_TO_PULL] = {"a short of {undriven pins} to the level it is pulled to"},
    [RMG_SAY_OUTPUT_STUCK] = {"the chip in {socket}: its output is stuck"},
    [RMG_SAY_INPUT_JOINT] = {"a joint or the track at {in pins}: written data does not reach the "
        "chip"},
    [RMG_SAY_INPUT_CONTACT] = {"a contact of the socket or the track at {in pins}: written data "
        "does not reach the chip"},
    [RMG_SAY_SHORT_AT_OUTPUT] = {"a short at {out pins}"},
    [RMG_SAY_ADDRESS_JOINT] = {"a joint at {address pins}"},
    [RMG_SAY_ADDRESS_CONTACT] = {"a contact of the socket at {address pins}"},
    [RMG_SAY_CHIP_ADDRESS] = {"the chip in {socket}: its address input or decoder"},
    [RMG_SAY_SMALLER_PART] = {"a smaller part than marked, or the wrong one"},
    [RMG_SAY_CHIP] = {"the chip in {socket}"},
    [RMG_SAY_SUPPLY_REFRESH_TIMING] = {"wrong supply, refresh or timing at this chip"},
    [RMG_SAY_ANY_JOINT] = {"a joint of {socket}"},
    [RMG_SAY_ANY_CONTACT] = {"a contact of the socket of {socket}"},
    [RMG_SAY_SUPPLY_OR_REFRESH] = {"wrong supply or refresh at this chip"},
    [RMG_SAY_SUPPLY] = {"a wrong supply at this chip"},
    [RMG_SAY_BUFFER_DOES_NOT_PASS] = {"the buffer or processor pin: it does not pass this line"},
    [RMG_SAY_TRACK_CUT] = {"the track: cut before the first chip"},
    [RMG_SAY_CHIP_DRAGS] = {"a chip on it that holds the line"},
    [RMG_SAY_BUFFER_DRIVES] = {"the buffer or processor pin that drives it"},
    [RMG_SAY_TRACK_CUT_OR_SHORTED] = {"the track: cut before the first chip, or shorted"},
    [RMG_SAY_TRACK_SHORTED] = {"the track: shorted"},
    [RMG_SAY_BANK_MULTIPLEXER] = {"the multiplexer or buffer that feeds this bank"},
    [RMG_SAY_LINE_BUFFER] = {"the buffer or processor pin that drives the line"},
    [RMG_SAY_ONE_CHIP_DRAGS] = {"one chip that holds the line"},
    [RMG_SAY_LINK_PORT_BUFFER] = {"the link, the port or the bus buffer"},
    [RMG_SAY_BANK_STROBE] = {"the bank's select or strobe (RAS, CAS, WE, CE)"},
    [RMG_SAY_SUPPLY_MISSING] = {"a supply that does not reach the chips"},
    [RMG_SAY_CHIPS_MISSING] = {"all of its chips missing"},
    [RMG_SAY_SUPPLY_NOISY] = {"a supply that is noisy, low or missing at the chips"},
    [RMG_SAY_REFRESH_TIMING] = {"wrong refresh or timing"},
    [RMG_SAY_LINK_DROPS_BITS] = {"a link or bus that drops bits now and then"},
    [RMG_SAY_PART_ON_THE_WAY] = {"{point} on the line: dead, open or not soldered"},
    [RMG_SAY_TRACK_OR_JOINT_BETWEEN] = {"the track between {before} and {point}: cut, or a joint"},
    [RMG_SAY_CHIP_BEYOND_DRAGS] = {"a chip beyond it that holds the line"},
    [RMG_SAY_TRACK_BETWEEN] = {"the track between {before} and {point}: cut"},
    [RMG_SAY_JOINT_BETWEEN] = {"a joint at {before} or {point}, where the line goes on"},
    [RMG_SAY_BRIDGE] = {"a solder bridge, a hair of wire or dirt between the two"},
    [RMG_SAY_BRIDGE_TO_OTHERS] = {"a solder bridge or a hair of wire between it and a select, a write "
        "line or an address line"},
    [RMG_SAY_CHIP_SHORTED] = {"a chip on them that is shorted inside"},
    [RMG_SAY_DRIVER_OF_BOTH] = {"the buffer or multiplexer that drives them"},
    [RMG_SAY_NOISY_PART] = {"a resistor or terminator of the line, missing or changed in value"},
    [RMG_SAY_NOISY_GROUND] = {"ground or supply that moves when many lines switch: a joint, a capacitor"},
    [RMG_SAY_NOISY_DRIVER] = {"what drives the line, too weak"},
    [RMG_SAY_NOISY_JOINT] = {"a joint or track of the line with too much resistance"},
    [RMG_SAY_WRITE_JOINT] = {"a joint at {write pin}"},
    [RMG_SAY_WRITE_CONTACT] = {"a contact of the socket at {write pin}"},
    [RMG_SAY_WRITE_TRACK] = {"the track to its write pin"},
    [RMG_SAY_WRITE_AT_PINS] = {"a joint, contact or track at {in pins}"},
    [RMG_SAY_WRITE_LINE] = {"the write line: cut, or its buffer or gate dead"},
    [RMG_SAY_NOT_RAM] = {"a ROM or write-protected memory where the board file says RAM"},
    [RMG_SAY_DATA_BUFFER] = {"the data buffer does not reverse for writes"},
    [RMG_SAY_DECODER] = {"the decoder or gate that makes the select"},
    [RMG_SAY_DECODER_ADDRESS] = {"an address line that does not reach the decoder"},
    [RMG_SAY_SELECT_TRACK] = {"the track of the select, shorted or cut"},
    [RMG_SAY_LINE_NOT_TESTED] = {"data line {bits} itself, of which no other chip was tested: its "
        "driver, its track, or a chip that holds it"},
    [RMG_SAY_TOUCHES_STILL] = {"it touches a line that stays at one level in all words tested: "
        "{lines}"},
    [RMG_SAY_ALWAYS_ON] = {"the chip in {socket} is always on"},
    [RMG_SAY_SELECT_JOINT] = {"its select or enable pin: joint, track or driver"},
    [RMG_SAY_SELECT_CONTACT] = {"its select or enable pin: contact, track or driver"},
    [RMG_SAY_NOTHING_FITS] = {"nothing fits: what you reported, or the trace in the board file, "
        "may be wrong"},
    /* steps */
    [RMG_SAY_MEASURE_SUPPLIES] = {"Measure the supplies at {socket}'s own pins",
        "{supplies}."},
    [RMG_SAY_SOLDER_JOINTS] = {"Power off",
        "look at the joints of {socket} {contact pins} with a magnifier, resolder them if in "
        "doubt, and test again."},
    [RMG_SAY_SUPPLIES_NEARBY] = {"Measure the supplies at the capacitors beside {socket}",
        "{supplies}; its own joints are out of reach."},
    [RMG_SAY_PRESS_ON_BALLS] = {"Run the test while {socket} is pressed down lightly, then warmed, "
        "then cooled", "what comes and goes with it is a joint among the solder balls."},
    [RMG_SAY_BALLS_LAST] = {"Power off, measure {settled bits} from its last reachable point "
        "before {socket} for opens and shorts; only if it is whole have {socket} lifted", "that "
        "needs hot air, and a chip taken off its balls is never put back untested."},
    [RMG_SAY_PROBE_SELECT_NEARBY] = {"Put a probe on the select and enable lines of {socket}, at "
        "the last point before it, while the test runs", "if they never become active, follow "
        "that line back; if they do, it is the chip or its solder balls."},
    [RMG_SAY_RESEAT] = {"Power off",
        "remove {socket}, inspect its legs and the socket's contacts at {contact pins}, reseat it "
        "firmly, and test again. If it passes, it was the contact."},
    [RMG_SAY_MEASURE_FROM_LEGS] = {"Power off, measure from the legs of {socket} along the tracks "
        "of {settled bits}",
        "an open circuit is the contact or the track; a few ohms to a supply are a short."},
    [RMG_SAY_MEASURE_TO_LEG] = {"Power off, measure from the line to the leg of {socket} {contact pins}",
        "open, it is the joint or the track; whole, the chip; a few ohms to a supply, a short."},
    [RMG_SAY_SWAP] = {"Swap {socket} with {other} and test again",
        "if the failure moves with the chip to {other}, the chip is bad; if it stays at {socket} "
        "({settled bits}), it is the socket or the track."},
    [RMG_SAY_KNOWN_GOOD_CHIP] = {"Put a known good {part} into {socket} and test again",
        "if the failure stays, it is the socket or the track."},
    [RMG_SAY_PIGGYBACK] = {"Hold a known good {part} on top of {socket} (soldered, so no swap), "
        "pin on pin, and test again",
        "if the failure goes or shrinks, {socket} is bad or not connected; if not, it proves "
        "nothing."},
    [RMG_SAY_LOOK_FOR_CHIP] = {"Look",
        "is a {part} fitted in {socket}, the right way round?"},
    [RMG_SAY_MORE_PASSES] = {"Run the same test again with --passes 4 or more",
        "is it the same each time?"},
    [RMG_SAY_WARM_AND_COOL] = {"Warm {socket} gently, then cool it, while the test runs on",
        "does it fail more, then less?"},
    [RMG_SAY_MEASURE_TO_FIRST_CHIP] = {"Power off, measure {bits} from the processor's pin to the "
        "first chip",
        "an open circuit is the fault."},
    [RMG_SAY_PULL_ONE_BY_ONE] = {"Pull the socketed chips on {bits} one by one ({pull}) and test "
        "after each",
        "if {bits} comes alive, the chip just pulled was holding it."},
    [RMG_SAY_LIFT_ONE_BY_ONE] = {"Lift {bits} off one chip after another and test after each",
        "if {bits} comes alive, the chip just lifted was holding it."},
    [RMG_SAY_MEASURE_LINE] = {"Power off",
        "measure {bits} against 0 V and +5 V, and against the neighbouring data lines. A few ohms "
        "are a short."},
    [RMG_SAY_PROBE_PINS] = {"Put a probe on {address pins} of the chips while the test runs",
        "does the level move?"},
    [RMG_SAY_PROBE_LINES] = {"Put a probe on these lines at the pins of the chips while the test "
        "runs",
        "does the level move?"},
    [RMG_SAY_CHECK_LINE_BACK] = {"Power off",
        "check the line from there back to its driver for a break, and against 0 V and +5 V for a "
        "short."},
    [RMG_SAY_MEASURE_ONE_CHIP] = {"Measure the supplies at the pins of one of the chips."},
    [RMG_SAY_PROBE_STROBES] = {"Put a probe on the select and strobe pins of one chip while the "
        "test runs",
        "do they move?"},
    [RMG_SAY_MEASURE_SEVERAL_CHIPS] = {"Measure the supplies at the pins of several chips, with an "
        "oscilloscope if you have one."},
    [RMG_SAY_COLD_AND_WARM] = {"Run the same test again, cold and warm",
        "do the same words fail?"},
    [RMG_SAY_MEASURE_AGAIN] = {"Measure once more, at the legs of the chips themselves, from "
        "{before} to {point}",
        "according to the chips, the signal does not get there."},
    [RMG_SAY_MEASURE_BETWEEN] = {"Power off, measure from {before} to {point}",
        "an open circuit is the fault."},
    [RMG_SAY_PROBE_BETWEEN] = {"Put a probe on {before} and then on {point} while the test runs",
        "where does the level stop moving?"},
    [RMG_SAY_MEASURE_NOISY] = {"Measure ground and supply between the pins of the line's driver and "
        "those of the chip farthest from it, and look at the capacitors between",
        "more than some tens of millivolts is too much."},
    [RMG_SAY_SCOPE_NOISY] = {"Look at the line with an oscilloscope at the chip farthest from its "
        "driver, triggered by {by}",
        "it must stay below 0.8 V, or above 2.0 V, while {by:that one switches|those switch}; a "
        "slow edge is a weak driver or a bad joint, a spike is ground or a missing resistor."},
    [RMG_SAY_MEASURE_BRIDGE] = {"Power off, measure between the two lines",
        "a few ohms are a bridge. With a magnifier, look along both, at neighbouring pins and "
        "joints first."},
    [RMG_SAY_MEASURE_TO_OTHERS] = {"Power off, measure from {bits} to the selects, to the write line "
        "and to the address lines",
        "a few ohms are a bridge. Look first, with a magnifier, at the pins beside {bits} at chips "
        "and buffers."},
    [RMG_SAY_PROBE_WRITE] = {"Put a probe on the write pin (WE) of one chip while the test runs",
        "does it ever go low?"},
    [RMG_SAY_PROBE_SELECTS] = {"Put a probe on the select pins of both banks while the test runs",
        "do they take turns?"},
    [RMG_SAY_MEASURE_SELECT] = {"Measure the select and enable pins of {socket} while the other "
        "bank is tested",
        "if they stay inactive, the chip is bad."},
    [RMG_SAY_MEASURE_IDLE_SELECT] = {"Measure the select and enable pins of {socket} while others "
        "are tested",
        "if they stay inactive, the chip is bad."},
    [RMG_SAY_PROBE_IDLE_SELECT] = {"Put a probe on the select and enable pins of {bank} while "
        "others are tested",
        "do they stay inactive?"},
    [RMG_SAY_PULL_IT] = {"Pull {socket} and test again",
        "if it passes, the chip or its select was to blame."},
    [RMG_SAY_TEST_ITS_BANK] = {"Test {bank} as well",
        "a chip of it that is always on then shows, by what was written to it."},
    [RMG_SAY_TEST_ON_LINES] = {"Test {bank} as well",
        "if {bits} fails there too, it is the line."},
    [RMG_SAY_TEST_MORE] = {"Test all of RAM",
        "lines that stayed at one level so far take both, and show whether they touch others."},
    [RMG_SAY_PULL] = {"Pull {socket} and test the other bank",
        "if it passes, the chip or its select was to blame."},
    [RMG_SAY_PROBE_SELECT_OF] = {"Put a probe on the select and enable pins of {socket} while the "
        "test runs",
        "if they never become active, follow that line back; if they do, it is the chip or its "
        "contacts."},
    [RMG_SAY_MEASURE_TO_THESE] = {"Power off: measure the line from a chip that works to {sockets}",
        "where there is no connection, the line is broken between them; where there is one to each, "
        "look at the sockets one by one."},
    [RMG_SAY_MEASURE_SUPPLY_OF_THESE] = {"Measure the supplies at {sockets}."},
    [RMG_SAY_TAKE_OUT_OTHERS] = {"Look for what else is addressed at {stretch}; take it out, or keep "
        "it from answering, and test again",
        "do these words pass?"},
    [RMG_SAY_REGION_OF_ITS_OWN] = {"If something belongs there, give it a region of its own in the "
        "board file."},
    [RMG_SAY_SAY_WHO_REFRESHES] = {"If accesses alone refresh this board, put refresh: accesses in its "
        "file."},
    [RMG_SAY_PROBE_ADDRESS_OF_THESE] = {"Put a probe on the address pins of {sockets} while the test "
        "runs, and on those of a chip that works",
        "do all of them pulse alike?"},
    [RMG_SAY_PROBE_REFRESH_OF_THESE] = {"Put a probe on the row strobe and the address pins of "
        "{sockets} while nothing is tested",
        "do they pulse?"},
    [RMG_SAY_PROBE_SELECT_OF_THESE] = {"Put a probe on the select and strobe pins of {sockets} while "
        "the test runs, and on those of a chip that works",
        "where they pulse alike, look at the sockets one by one."},
    [RMG_SAY_METER_HALF] = {"Power off: measure from {to} to {from}",
        "where they are connected, what is broken lies beyond {from}; where not, before it. That "
        "halves what is left."},
    [RMG_SAY_METER_ACROSS] = {"Power off: measure from {from} to {to}, across {point}",
        "an open circuit is the fault."},
    [RMG_SAY_READ_MARKING] = {"Read what is printed on the chip in {socket}: is it a {part}, and not "
        "a part with fewer address lines?"},
    [RMG_SAY_PROBE_HALF] = {"Put a probe on {from} while the board runs",
        "where it moves as at {to}, what is broken lies beyond {from}; where not, before it. That "
        "halves what is left."},
    [RMG_SAY_PROBE_DRIVER] = {"Put a probe on {from}, where the line is driven, while the board runs",
        "where it moves there, the line is broken on its way; where not, pull or lift what hangs on "
        "it one by one, and suspect what drives it."},
    [RMG_SAY_LOOK_CLOSELY] = {"Look at it with a magnifier and measure it once more",
        "from both sides of each joint."},
    [RMG_SAY_MEASURE_ONCE_MORE] = {"Measure it once more",
        "one of the things reported, or the trace in the board file, is not right."},
    [RMG_SAY_PRESS_ALONG_LINE] = {"Let the test run and press, with something that does not conduct, "
        "on the joints and contacts along the line, from its driver to {sockets}",
        "where failures come or go, there it is."},
    [RMG_SAY_PRESS_ON_BANK] = {"Let the test run and press, with something that does not conduct, on "
        "the chips that drive the selects and address lines, and on their joints",
        "where failures come or go, there it is."},
    [RMG_SAY_FIND_THE_BANK] = {"Find the bank: test or read one bank alone, or exchange the chips of "
        "one bank with those of another",
        "the chip is where the report goes"},
    /* faults put into the simulated board */
    [RMG_SAY_FAULT_ALWAYS_ON] = {"{socket} drives its lines at every read"},
    [RMG_SAY_FAULT_DATA_LINE] = {"the data line stuck at {level}"},
    [RMG_SAY_FAULT_DATA_LINE_BEHIND] = {"the data line stuck at {level} behind its buffer"},
    [RMG_SAY_FAULT_DATA_LINE_OPEN] = {"the data line open"},
    [RMG_SAY_FAULT_ADDRESS_LINE] = {"the address line stuck or open at {level}"},
    [RMG_SAY_FAULT_TOUCH] = {"the two lines touch, a {level} wins"},
    [RMG_SAY_FAULT_WRITE_OPEN] = {"the write line open beyond that point"},
    [RMG_SAY_FAULT_BRANCH] = {"{traced} open or stuck at {level} beyond that point"},
    [RMG_SAY_FAULT_BRANCH_OPEN] = {"{traced} open beyond that point"},
    [RMG_SAY_FAULT_SHARED] = {"the line stuck at {level} before {sockets}"},
    [RMG_SAY_FAULT_SHARED_OPEN] = {"the line open before {sockets}"},
    [RMG_SAY_FAULT_SHARED_WRITE] = {"the write line open before {sockets}"},
    [RMG_SAY_FAULT_ANSWERS] = {"{bank} answers where {bank2} is addressed"},
    [RMG_SAY_FAULT_BANK_DRIVES] = {"{bank} drives its lines at every read"},
    [RMG_SAY_FAULT_NEVER_WRITTEN] = {"what is written does not arrive"},
    [RMG_SAY_FAULT_NEVER_SELECTED] = {"none of these chips is ever selected"},
    [RMG_SAY_FAULT_OUTPUT] = {"the output of {socket} stuck"},
    [RMG_SAY_FAULT_DATA_PIN] = {"a data pin of {socket} without contact"},
    [RMG_SAY_FAULT_EMPTY] = {"{socket} empty, or its chip dead"},
    [RMG_SAY_FAULT_INPUT] = {"the data input of {socket} without contact, floating at {level}"},
    [RMG_SAY_FAULT_STALE] = {"{socket} gives at each read what the read before should have given"},
    [RMG_SAY_FAULT_LATE] = {"the outputs of {socket} too late"},
    [RMG_SAY_FAULT_DESELECTED] = {"{socket} never selected"},
    [RMG_SAY_FAULT_SHORT_PIN] = {"the track at a data pin of {socket} shorted"},
    [RMG_SAY_FAULT_CUT_PIN] = {"the track to a data pin of {socket} cut"},
    [RMG_SAY_FAULT_ADDRESS_PIN] = {"the address pin of {socket} stuck or open at {level}"},
    [RMG_SAY_FAULT_ADDRESS_TRACK] = {"the track to an address pin of {socket} stuck or open at "
        "{level}"},
    [RMG_SAY_FAULT_ADDRESS_WITHIN] = {"one of the two address lines within {socket} stuck at "
        "{level}"},
    [RMG_SAY_FAULT_CELLS] = {"cells of {socket} stuck"},
    [RMG_SAY_FAULT_CELLS_KEPT] = {"cells of {socket} that cannot be changed"},
    [RMG_SAY_FAULT_ONE_VALUE] = {"{alone}"},
    [RMG_SAY_FAULT_COUPLED] = {"{coupled}"},
    [RMG_SAY_FAULT_INVERTS] = {"a cell of {socket} inverted by a change of another cell"},
    [RMG_SAY_FAULT_SETS] = {"a cell of {socket} set by a change of another cell"},
    [RMG_SAY_FAULT_HOLDS] = {"a cell of {socket} held by another cell while that has a certain "
        "value"},
    [RMG_SAY_FAULT_FLIPS] = {"a cell of {socket} flipped by an access to another cell"},
    [RMG_SAY_FAULT_REACHES_NONE] = {"an address within {socket} that reaches no cell"},
    [RMG_SAY_FAULT_REACHES_NONE_TWO] = {"an address within {socket} that reaches no cell, another "
        "that reaches two"},
    [RMG_SAY_FAULT_REACHES_OTHER] = {"an address within {socket} that reaches another one's cell"},
    [RMG_SAY_FAULT_REACHES_BOTH] = {"an address within {socket} that reaches another one's cell "
        "too"},
    [RMG_SAY_FAULT_ROW] = {"a row of {socket} stuck at {level}"},
    [RMG_SAY_FAULT_COLUMN] = {"a column of {socket} stuck at {level}"},
    [RMG_SAY_FAULT_PATTERN_HOLDS] = {"cells of {socket} that take a level while the cells around "
                                     "them hold a pattern"},
    [RMG_SAY_FAULT_PATTERN_KEEPS] = {"cells of {socket} that cannot be changed while the cells "
                                     "around them hold a pattern"},
    [RMG_SAY_FAULT_PATTERN_SETS] = {"cells of {socket} that a change of a cell beside them sets "
                                    "while the others hold a pattern"},
    [RMG_SAY_FAULT_SLOW_DECODER] = {"an address within {socket} that is let go of too late for the "
                                    "next one"},
    [RMG_SAY_FAULT_SLOW_LINE] = {"an address line within {socket} that is slow to become {level}"},
    [RMG_SAY_FAULT_LATE_PRECHARGE] = {"a column of {socket} that still has the {level} of the "
                                      "access before"},
    [RMG_SAY_FAULT_WRITE_RECOVERY] = {"a column of {socket} that still has the {level} of the "
                                      "write before"},
    [RMG_SAY_FAULT_DISTURBED] = {"cells of {socket} that accesses to a neighbouring row disturb"},
    [RMG_SAY_FAULT_WITH_TIME] = {"cells of {socket} that lose their contents over time"},
    [RMG_SAY_FAULT_THESE_NOT_REFRESHED] = {"{sockets} are not refreshed"},
    [RMG_SAY_FAULT_THESE_ROWS] = {"rows of {sockets} that the board does not refresh"},
    [RMG_SAY_FAULT_NOT_REFRESHED] = {"{socket} is not refreshed"},
    [RMG_SAY_FAULT_ROWS_NOT_REFRESHED] = {"rows of {socket} that the board does not refresh"},
    /* chips that are read */
    [RMG_SAY_ROM_DATA_LINE] = {"data line {pin}",
        "{explanation}",
        "{name}: {does}."},
    [RMG_SAY_ROM_DATA_LINES] = {"data lines {pin} and {pin2}",
        "{explanation}",
        "{name}: {does}."},
    [RMG_SAY_ROM_ADDRESS_LINE] = {"address line {pin}",
        "{explanation}",
        "{name}: {does}."},
    [RMG_SAY_ROM_ADDRESS_LINES] = {"address lines {pin} and {pin2}",
        "{explanation}",
        "{name}: {does}."},
    [RMG_SAY_ROM_STRETCH] = {"{traced} between {before} and {at}",
        "{explanation}",
        "Look at {where}: {does}."},
    [RMG_SAY_ROM_IMAGE] = {"the image in {name}",
        "{explanation}",
        "{name}: {does}."},
    [RMG_SAY_ROM_WRONG_IN_BOARD] = {"{name} in its board",
        "reads wrong in the board, right on its own pins",
        "{name} reads wrong in its board but right on its own pins: the line, the contact, the "
        "enable, a slow or weak chip, or another chip on the bus."},
    [RMG_SAY_ROM_FADING] = {"{name}",
        "bits return to the erased state",
        "{name}: {n} bit{n: is wrong|s are wrong} (all read 1 for 0: fading), in no pattern of a "
        "line: the chip's own cells."},
    [RMG_SAY_ROM_BADLY_PROGRAMMED] = {"{name}",
        "bits read 0 that should be erased",
        "{name}: {n} bit{n: is wrong|s are wrong} (all read 0 for 1: badly programmed, or another "
        "version), in no pattern of a line: the chip's own cells."},
    [RMG_SAY_ROM_SCATTERED] = {"{name}",
        "single bits are wrong both ways",
        "{name}: {n} bit{n: is wrong|s are wrong} (both ways), in no pattern of a line: the chip's "
        "own cells."},
    [RMG_SAY_ROM_UNSTEADY] = {"{name}",
        "not the same in all readings",
        "{name}: {n} bit{n:|s} in {m} word{m: is|s are} not the same in all {k} readings."},
    [RMG_SAY_ROM_UNSTEADY_LINE] = {"{pin}",
        "not the same in all readings",
        "{name}: {n} bit{n:|s} in {m} word{m: is|s are} not the same in all {k} readings, nearly "
        "all on {pin}."},
    [RMG_SAY_ROM_NOTHING] = {"{name}",
        "nothing drives the data lines",
        "{name}: nothing answers. Every bit reads what was last on its line."},
    [RMG_SAY_ROM_BLANK] = {"{name}",
        "reads ones everywhere",
        "{name} is blank: it drives ones at every address."},
    [RMG_SAY_ROM_DRIVES_ZEROS] = {"{name}",
        "reads zeros everywhere",
        "{name} drives zeros at every address."},
    [RMG_SAY_ROM_ONES] = {"{name}",
        "reads ones everywhere",
        "{name} reads ones everywhere: blank, empty and not enabled cannot be distinguished here."},
    [RMG_SAY_ROM_ZEROS] = {"{name}",
        "reads zeros everywhere",
        "{name} reads zeros everywhere: blank, empty and not enabled cannot be distinguished "
        "here."},
    /* their reasons */
    [RMG_SAY_FOLLOWED_THE_LINE] = {"At all {n} words the line read what was put on it just before, "
        "low and high."},
    [RMG_SAY_PREDICTS] = {"It predicts {n} wrong bits; {m} of them are wrong exactly so."},
    [RMG_SAY_RIGHT_BARE] = {"The same chip reads right on its own pins."},
    [RMG_SAY_READS_THE_SAME] = {"This would read the same: {explanation}."},
    [RMG_SAY_FITS_TOO] = {"This fits nearly as well ({n} %): {explanation}."},
    [RMG_SAY_MORE_FIT] = {"{n} more explanation{n: fits|s fit} as well or nearly so: the image is "
        "too uniform here to distinguish them."},
    [RMG_SAY_COULD_SHOW] = {"{n} bits could have shown it; {m} did, and none that could not."},
    [RMG_SAY_RAM_PASSES] = {"The RAM passes on {traced}, so the line is sound as far as {before}."},
    [RMG_SAY_RIGHT_BARE_SO_HOLDS] = {"The same chip reads right on its own pins, so it holds what "
        "it should."},
    [RMG_SAY_FIT_NO_LINE] = {"Wrong bits that fit no line: {m} read 1 for 0, {k} read 0 for 1."},
    [RMG_SAY_SOME_UNSTEADY] = {"{n} of them were not the same in all readings."},
    [RMG_SAY_UNSTEADY_ON_ONE] = {"They lie in {n} row{n:|s} of {m} words, on one data line: more likely "
        "its line or contact than the cells."},
    [RMG_SAY_UNSTEADY_ON_SEVERAL] = {"They lie in {n} row{n:|s} of {m} words, on several data "
        "lines: more likely cells than a line."},
    [RMG_SAY_UNSTEADY_FEW] = {"They lie in {n} row{n:|s} of {m} words, too few to tell cells from a "
        "data line."},
    [RMG_SAY_DRIVEN_AND_READ_SO] = {"The lines were driven low and high before each word, and read "
        "so."},
    [RMG_SAY_DRIVEN_OTHERWISE] = {"The lines were driven the other way before; a floating line "
        "would have kept that."},
    [RMG_SAY_PULLED_TO_ONES] = {"Undriven lines read ones on this board too."},
    [RMG_SAY_PULLED_TO_ZEROS] = {"Undriven lines read zeros on this board too."},
    [RMG_SAY_UNDRIVEN_NOT_TRIED] = {"What undriven lines read on this board was not measured."},
    [RMG_SAY_NEVER_CHANGES] = {"It never changes; in an image of code or text every bit does. With "
        "a good image it could be proved."},
    [RMG_SAY_ALIKE_EVERYWHERE] = {"Both bits are the same at every word; in an image of code or "
        "text no two are. With a good image it could be proved."},
    [RMG_SAY_MAKES_NO_DIFFERENCE] = {"It makes no difference at any word: what is read repeats."},
    /* their rivals */
    [RMG_SAY_CHIP_ITSELF_AT] = {"the chip itself, at {pin}"},
    [RMG_SAY_ADAPTER_CONTACT] = {"the adapter's contact"},
    [RMG_SAY_CHIP_OUTPUT_AT] = {"the chip: its output at {pin}"},
    [RMG_SAY_CHIP_INPUT_AT] = {"the chip: its input at {pin}"},
    [RMG_SAY_JOINT_AT] = {"the joint at {pin}"},
    [RMG_SAY_CONTACT_AT] = {"the contact at {pin}"},
    [RMG_SAY_TRACK_TO_PIN] = {"the track between {before} and {at}"},
    [RMG_SAY_TRACK_TO_IT] = {"the track to it"},
    [RMG_SAY_ANOTHER_CHIP_HOLDS] = {"another chip that holds the line"},
    [RMG_SAY_BOARD_CROSSES] = {"this board crosses these lines, and its file does not say so"},
    [RMG_SAY_CROSSED_IN_REPAIR] = {"the lines were swapped in a repair"},
    [RMG_SAY_PROGRAMMED_CROSSED] = {"the chip was programmed for a board that crosses these lines"},
    [RMG_SAY_BRIDGE_OR_LEG] = {"a solder bridge or a bent leg between the two"},
    [RMG_SAY_TRACKS_TOUCH] = {"the tracks touch elsewhere"},
    [RMG_SAY_CHIP_ITSELF] = {"the chip itself"},
    [RMG_SAY_SMALLER_OR_REPEATED] = {"a smaller chip, or an image that was repeated to fill this "
        "one"},
    [RMG_SAY_WRONG_HALF] = {"a jumper or select that enables the wrong half"},
    [RMG_SAY_ANOTHER_VERSION] = {"another version, or the chip of another socket, is fitted"},
    [RMG_SAY_EXCHANGED_SOCKETS] = {"the even and the odd chip are in each other's socket"},
    [RMG_SAY_SPLIT_EXCHANGED] = {"the image was split with even and odd swapped"},
    [RMG_SAY_PARTS_EXCHANGED] = {"the image was programmed with these parts swapped"},
    [RMG_SAY_JUMPER_OR_INVERTER] = {"a jumper or an inverter on that line is set differently"},
    [RMG_SAY_WRONG_OFFSET] = {"the image was programmed at the wrong offset"},
    [RMG_SAY_EXPLAINED_BY] = {"{explanation}"},
    [RMG_SAY_LINE_SHOWS_BLANK] = {"one of its address lines is stuck, or touches another: only a "
                                  "blank part of the image is seen"},
    [RMG_SAY_WEAKLY_PROGRAMMED] = {"the chip is weakly programmed: right where there is time, wrong "
        "in the board"},
    [RMG_SAY_PROGRAM_AGAIN] = {"Program the good image into the same chip once more, over what it "
        "holds, and verify it in the board."},
    [RMG_SAY_STOPPED_EARLY] = {"programming stopped early, or the image was longer than what was "
        "programmed"},
    [RMG_SAY_BLOCK_NOT_PROGRAMMED] = {"this block was not programmed, or was erased"},
    [RMG_SAY_ANOTHER_BUILD] = {"another version of the same program"},
    [RMG_SAY_FILE_DAMAGED] = {"the image file, or the one it was programmed from, is damaged"},
    [RMG_SAY_LINES_NOT_CONNECTED] = {"address lines that do not reach the chip"},
    [RMG_SAY_HALF_PROGRAMMED] = {"only half of the image was programmed"},
    [RMG_SAY_HALF_NOT_ENABLED] = {"the other half is not enabled and reads as ones"},
    [RMG_SAY_OTHER_BOARD] = {"the image was made for another board"},
    [RMG_SAY_BOARD_NOT_AS_TOLD] = {"lines or buffers of the board are not as its file describes "
        "them"},
    [RMG_SAY_TOO_SLOW] = {"the chip is too slow for the board's clock, or weak at its supply"},
    [RMG_SAY_ANOTHER_ANSWERS] = {"another chip answers at the same time"},
    [RMG_SAY_SUPPLY_CONTACTS] = {"contacts, above all supply, enable and output enable"},
    [RMG_SAY_ENABLE_LATE] = {"the enable comes late or is not steady"},
    [RMG_SAY_NOISE_ON_LINES] = {"noise on lines or supply"},
    [RMG_SAY_CELLS_FADE] = {"the chip: its cells lose their charge"},
    [RMG_SAY_CELLS_BAD] = {"the chip: cells that are bad or were badly programmed"},
    [RMG_SAY_OUTSIDE_LIMITS] = {"supply or clock outside the chip's limits"},
    [RMG_SAY_LINE_NOISE] = {"noise on the lines"},
    [RMG_SAY_UNKNOWN_IMAGE] = {"an image that the catalogue does not have"},
    [RMG_SAY_SEVERAL_FAULTS] = {"several faults of lines at once"},
    [RMG_SAY_BAD_CHIP] = {"a bad chip"},
    [RMG_SAY_OUTPUT_OF_CHIP] = {"the chip's output"},
    [RMG_SAY_NOISE_ON_LINE] = {"noise on the line"},
    [RMG_SAY_WEAK_CELLS] = {"the chip: weak cells"},
    [RMG_SAY_AT_ITS_LIMIT] = {"supply, temperature or clock at its limit"},
    [RMG_SAY_NOISE_OR_ANOTHER] = {"noise, or another chip on the bus"},
    [RMG_SAY_ERASED] = {"the chip is erased: never programmed, or wiped"},
    [RMG_SAY_HOLDS_ZEROS] = {"the chip holds zeros, or its outputs fail"},
    [RMG_SAY_ADAPTER_EMPTY] = {"the adapter is empty"},
    [RMG_SAY_NOT_ENABLED] = {"the chip is not enabled: its enable, output enable or select is "
        "dead"},
    [RMG_SAY_SEATED_BADLY] = {"the chip is badly seated: supply or enable makes no contact"},
    [RMG_SAY_EMPTY_OR_SEATED] = {"the socket is empty, or the chip is badly seated"},
    [RMG_SAY_DEAD] = {"the chip is dead"},
    /* their steps */
    [RMG_SAY_RESEAT_AND_READ] = {"Reseat the chip in {name}, clean its legs, and read it again: a "
        "bad contact is the cheapest cause."},
    [RMG_SAY_PULL_AND_VERIFY] = {"Pull the chip and verify it bare (--bare): good there, and the "
        "fault is in the socket or on the line; bad there, and it is the chip."},
    [RMG_SAY_TEST_RAM_ON_LINES] = {"Test the RAM on the same data lines (rimeglass test): if it "
        "passes, the line is sound as far as the RAM, and only the stretch to {name} is left."},
    [RMG_SAY_MEASURE_FROM_PIN] = {"With the power off, measure from {name}'s pin to {before} (line "
        "{traced})."},
    [RMG_SAY_MAKE_CROSSED] = {"An image for a board with crossed lines: rimeglass image FILE "
        "--data-lines or --address-lines makes it."},
    [RMG_SAY_COMPARE_WITH_FOUND] = {"Compare with the image that was found; if it is the right one "
        "for this board, nothing is wrong."},
    [RMG_SAY_EXCHANGE_CHIPS] = {"Swap the even and the odd chip, and verify again."},
    [RMG_SAY_MAKE_ANEW] = {"Make the image again: rimeglass image FILE --cut, --pad or --move, and "
        "program the chip again."},
    [RMG_SAY_MAKE_FOR_BOARD] = {"If the board crosses its lines so, make the image for it: "
        "rimeglass image FILE --data-lines or --invert-data."},
    [RMG_SAY_VERIFY_AT_STEPS] = {"Verify at several clocks and supplies (--clock-hz, --supply-mv), "
        "if the port can set them: a slow or weak chip has a first step at which it fails."},
    [RMG_SAY_PULL_OTHERS] = {"Pull other chips on the same data lines one by one and verify again: "
        "contention goes with one of them."},
    [RMG_SAY_TEST_RAM_TOO] = {"Test the RAM (rimeglass test): a chip that drives this line at the "
        "wrong time shows there too."},
    [RMG_SAY_IDENTIFY] = {"Identify what was read (rimeglass identify), and look for its version "
        "text."},
    [RMG_SAY_PROGRAM_NEW] = {"Program the good image into a new chip for {name} now; cover its "
        "window."},
    [RMG_SAY_PROGRAM_ANOTHER] = {"Program the good image into another chip for {name} and verify "
        "that."},
    [RMG_SAY_READ_WARM_AND_COLD] = {"Read it while it warms up and cools down (rimeglass dump "
        "--watch): weak cells move with temperature and supply."},
    [RMG_SAY_PROGRAM_AND_VERIFY] = {"Program the good image into a chip for {name}, and verify "
        "it."},
    [RMG_SAY_PROBE_ENABLES] = {"While {name} is read in a loop, look with a probe for pulses at "
        "its enable pins."},
    [RMG_SAY_SETTLE_BARE] = {"verify the chip of {name} bare"},
    [RMG_SAY_SETTLE_STRETCH] = {"power off, measure from {before} to {at}"},
};
/* clang-format on */
_Static_assert(sizeof rmg_words_rows / sizeof *rmg_words_rows == RMG_SAID,
               "everything that can be said has its words");
