/* Rimeglass: memory testing that ends at a socket.
 *
 *  header      concept                                                     library
 *  ----------  ----------------------------------------------------------  --------------
 *  config.h    the widths of this build (made by the build)                rimeglass-core
 *  types.h     addresses, words, counts, ranges                            rimeglass-core
 *  status.h    what a call can answer                                      rimeglass-core
 *  bus.h       the bus port: how a memory is reached; write your own       rimeglass-core
 *  guard.h     the permitted words: no access outside them                 rimeglass-core
 *  march.h     march tests: notation, names, engine                        rimeglass-core
 *  pattern.h   data backgrounds by address, orders of addresses            rimeglass-core
 *  tally.h     failures, counted in fixed memory                           rimeglass-core
 *  wiring.h    data and address lines, checked before any cell             rimeglass-core
 *  place.h     (address, bit) to socket and pin                            rimeglass-core
 *  finding.h   first findings: which line, which socket                    rimeglass-core
 *  coverage.h  what a march can find, computed on a small memory               rimeglass
 *  sim.h       the simulated board: chips, faults, a clock; and its port   rimeglass
 *  ram.h       this machine's own memory as a port                         rimeglass
 *  part.h      standard memory chips: size, pinout, supplies               rimeglass
 *  board.h     the board file                                              rimeglass
 *  fault.h     the fault file                                              rimeglass
 *  probe.h     the spot check: a few values at an address                  rimeglass
 *  failset.h   every failing (address, bit)                                rimeglass
 *  plan.h      plans: quick, full, deep, or a file of one's own                rimeglass
 *  rate.h      rates with their 95 % intervals, and how they move              rimeglass
 *  run.h       a plan carried out on a board; what was and was not tested  rimeglass
 *  runfile.h   a run kept in a file, and gone on with                          rimeglass
 *  suspect.h   findings in words: site, how sure, why, what next           rimeglass
 *  replay.h    suspects put into the simulated board, and compared          rimeglass
 *  result.h    results as JSON; files written whole or not at all          rimeglass
 *  checksum.h  byte sums, CRC-32, MD5, SHA-1, SHA-256                      rimeglass
 *  image.h     chip images: raw, Intel HEX, Motorola S-records                 rimeglass
 *  imagework.h an image made ready for another chip                        rimeglass
 *  rom.h       what is read of a chip or region, its lines and pins        rimeglass
 *  reading.h   several readings, and what they are worth                   rimeglass
 *  compare.h   what was read against an image: what that proves            rimeglass
 *  verify.h    readings compared, at steps of supply and clock             rimeglass
 *  watch.h     a chip read pass after pass                                 rimeglass
 *  romfind.h   findings of ROMs in words                                   rimeglass
 *  romresult.h dumps and verifications as JSON                             rimeglass
 *  romview.h   images as glyphs and maps                                   rimeglass
 *  catalogue.h which image it is                                           rimeglass
 *  draw.h      the board as a picture, PNG or SVG                          rimeglass
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
 *  Errors    Functions answer a status (status.h), 0 is RMG_OK. A bad chip is never an error, a
 *            failed port is never a bad chip. After an error results hold what was found so far.
 *  Threads   No globals. Calls on different structures may run at the same time.
 */
#ifndef RIMEGLASS_RIMEGLASS_H
#define RIMEGLASS_RIMEGLASS_H

#include "rimeglass/config.h"

#include "bus.h"
#include "finding.h"
#include "guard.h"
#include "march.h"
#include "pattern.h"
#include "place.h"
#include "status.h"
#include "tally.h"
#include "types.h"
#include "wiring.h"

#endif
