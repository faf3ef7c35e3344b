/* Rimeglass: memory testing that ends at a socket.
 *
 *  header          concept                                                     library
 *  --------------  ----------------------------------------------------------  --------------
 *  config.h        the widths of this build (made by the build)                rimeglass-core
 *  types.h         addresses, words, counts, ranges; what a call can answer    rimeglass-core
 *  bus.h           the bus port: how a memory is reached (write your own);     rimeglass-core
 *                  and a port that makes no access outside the permitted words
 *  march.h         march tests: notation, names, engine, backgrounds, orders   rimeglass-core
 *  tally.h         failures, counted in fixed memory                           rimeglass-core
 *  wiring.h        data and address lines, checked before any cell             rimeglass-core
 *  place.h         (address, bit) to socket and pin                            rimeglass-core
 *  finding.h       first findings: which line, which socket                    rimeglass-core
 *  far_end.h       the far half of the link: requests as lines, carried out    rimeglass-core
 *  pins.h          a chip on lines to drive and sample: DRAM, SRAM, ROM        rimeglass-core
 *  sim.h           the simulated board: chips, faults, a clock; and its port   rimeglass-sim
 *  fault_kinds.h   the table of fault kinds                                    rimeglass-sim
 *  coverage.h      what a march can find, computed on a small memory           rimeglass-sim
 *  testrom.h       a ROM for a dead board: its steps, played or as code        rimeglass
 *  upload.h        march elements as code for the memory of a target           rimeglass
 *  ram.h           this machine's own memory as a port                         rimeglass
 *  text.h          texts, numbers, what was wrong with them                    rimeglass
 *  file.h          files written whole or not at all, compared; checksums      rimeglass
 *  part.h          standard memory parts: pins, refresh, times; what fits      rimeglass
 *  board.h         the board file                                              rimeglass
 *  author.h        a board file made by question and answer                    rimeglass
 *  image.h         chip images: files, the steps for another chip, glyphs      rimeglass
 *  catalogue.h     which image it is                                           rimeglass
 *  search.h        the shortest march for what is asked                        rimeglass
 *  deadboard.h     such a ROM planned for a board: steps, image, profile       rimeglass
 *  fault.h         the fault file                                              rimeglass
 *  failset.h       every failing (address, bit)                                rimeglass
 *  plan.h          plans: quick, full, deep, or a file of one's own            rimeglass
 *  run.h           a plan carried out; rates; the run kept in a file           rimeglass
 *  heard.h         a run that another program reported                         rimeglass
 *  grade.h         at which step of clock, time or supply chips begin to fail  rimeglass
 *  lines.h         lines that others print, put to places by a profile         rimeglass
 *  stream.h        bytes from a serial line, TCP, a program or a file          rimeglass
 *  gdb.h           a memory behind a debug link as a port                      rimeglass
 *  loader.h        march elements by a routine in the target: proven, started    rimeglass
 *  prompt.h        a memory behind a monitor or BASIC at a serial line         rimeglass
 *  link.h          a memory behind a far end of ours: the near half of the link  rimeglass
 *  live.h          a run on a whole terminal screen, with keys                 rimeglass
 *  target.h        what is tested, opened by its name                          rimeglass
 *  suspect.h       suspects: site, how sure, why, what next; causes and facts  rimeglass
 *  sayings.h       what can be said of a suspect, a name each                  rimeglass
 *  replay.h        suspects put into the simulated board, and compared         rimeglass
 *  trial.h         what was changed between two runs, and what follows         rimeglass
 *  rom_trial.h     the same between two readings of a ROM                      rimeglass
 *  job.h           a repair kept in one file, and what follows from it         rimeglass
 *  probe.h         the spot check: a few values at an address                  rimeglass
 *  rom.h           chips and regions that are read, and how sure that is       rimeglass
 *  verify.h        readings held against images: what a difference proves      rimeglass
 *  chip.h          a chip out of its board, on a pod: checks, test, verdict    rimeglass
 *  report.h        results as JSON and as pictures                             rimeglass
 *
 * This header takes in the core only. A program that uses more takes in those headers by name.
 *
 * Rules that hold for all of them
 *  Memory    The caller owns every structure and buffer. Core and simulator allocate nothing.
 *            What the host library allocates has a function of its own to free it.
 *  Pointers  NULL is not allowed unless the comment says so. Lists that a structure points to
 *            belong to the caller and must outlive it. A core structure holds no pointer into
 *            itself and may be copied.
 *  Units     Addresses count words of the port. Other units stand in the name: hold_us, now_ns.
 *  Errors    Functions answer a status (types.h), 0 is RMG_OK. A bad chip is never an error, a
 *            failed port is never a bad chip. After an error results hold what was found so far.
 *  Threads   No globals. Calls on different structures may run at the same time.
 */
#ifndef RIMEGLASS_RIMEGLASS_H
#define RIMEGLASS_RIMEGLASS_H

#include "rimeglass/config.h"

#include "bus.h"
#include "far_end.h"
#include "finding.h"
#include "march.h"
#include "place.h"
#include "tally.h"
#include "types.h"
#include "wiring.h"

#endif
