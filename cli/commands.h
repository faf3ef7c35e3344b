/* The commands, in the order of the help: COMMAND(name, summary). Each is command_name() in a file
 * of its own, cmd_name.c. */
#ifndef RMG_CLI_COMMANDS_H
#define RMG_CLI_COMMANDS_H

#define COMMANDS(COMMAND)                                                                          \
    COMMAND(board, "show or check a board file")                                                   \
    COMMAND(probe, "spot check: a few values at an address")                                       \
    COMMAND(test, "test a board's memory and name what to look at")                                \
    COMMAND(explain, "what a march test can and cannot find, computed")                            \
    COMMAND(log, "lines another program printed: which chip they mean")                            \
    COMMAND(diagnose, "what a recorded run says, with replay")                                     \
    COMMAND(job, "a repair: changes, what follows, what next, the sheet")                          \
    COMMAND(dump, "read a chip or region, and judge the reading")                                  \
    COMMAND(verify, "a chip against its image: what the difference proves")                        \
    COMMAND(identify, "which image it is, by your own catalogue")                                  \
    COMMAND(image, "show an image file, or convert it")                                            \
    COMMAND(part, "what a memory part is, and what can stand where it stood")                      \
    COMMAND(testrom, "a ROM that tests a board which does not start")                              \
    COMMAND(chip, "test a chip out of its board, on a pod: which tray?")

#endif
