/* What a call can answer. A bad chip is never a status: it is a result, and stands in the tally. */
#ifndef RIMEGLASS_STATUS_H
#define RIMEGLASS_STATUS_H

#ifdef __cplusplus
extern "C" {
#endif

typedef enum rmg_status {
    RMG_OK = 0,          /* done */
    RMG_ERR_ARGUMENT,    /* an argument is outside what the function's comment allows */
    RMG_ERR_RANGE,       /* a range is empty, unordered, or too small for this check */
    RMG_ERR_NOTATION,    /* a march's text could not be read; the place is told apart */
    RMG_ERR_ROOM,        /* the caller's buffer is too small for the result */
    RMG_ERR_PORT,        /* the port could not make the access and says so */
    RMG_ERR_PORT_LOST,   /* the port no longer answers */
    RMG_ERR_PORT_CANNOT, /* the port has no such function */
    RMG_ERR_CANCELLED,   /* the observer asked to stop; what was found so far is valid */
    RMG_ERR_FILE,        /* a file could not be read or written (host library) */
    RMG_ERR_CONTENT,     /* a file was read, but what stands in it is wrong (host library) */
    RMG_ERR_FORBIDDEN,   /* an access outside the permitted words was refused; none was made */
    RMG_ERR_MEMORY       /* this machine has no more memory for the result (host library) */
} rmg_status;

/* One plain sentence part for a status, for example "the port no longer answers". Never NULL; the
 * text is constant and needs no freeing. Always built, linked only where it is called. */
const char *rmg_status_text(rmg_status status);

#ifdef __cplusplus
}
#endif
#endif
