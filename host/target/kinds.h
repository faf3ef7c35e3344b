/* The kinds of target, in the order of messages: TARGET(name), with its prefix "name:". Each is
 * rmg_target_name in a file of its own, name.c. */
#ifndef RMG_HOST_TARGET_KINDS_H
#define RMG_HOST_TARGET_KINDS_H

#define RMG_TARGETS(TARGET)                                                                        \
    TARGET(sim)                                                                                    \
    TARGET(ram)                                                                                    \
    TARGET(gdb)                                                                                    \
    TARGET(prompt)                                                                                 \
    TARGET(link)                                                                                   \
    TARGET(pod)

#endif
