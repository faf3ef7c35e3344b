/* Plain words for a status. */
#include "rimeglass/types.h"

const char *rmg_status_text(rmg_status status)
{
    switch (status) {
    case RMG_OK:
        return "done";
    case RMG_ERR_ARGUMENT:
        return "a value is out of range";
    case RMG_ERR_RANGE:
        return "the range is empty, unordered or too small";
    case RMG_ERR_NOTATION:
        return "the march's notation could not be read";
    case RMG_ERR_ROOM:
        return "it is too large";
    case RMG_ERR_PORT:
        return "the port could not make an access";
    case RMG_ERR_PORT_LOST:
        return "the port no longer answers";
    case RMG_ERR_PORT_CANNOT:
        return "the port has no such function";
    case RMG_ERR_CANCELLED:
        return "stopped on request";
    case RMG_ERR_FILE:
        return "a file could not be read or written";
    case RMG_ERR_CONTENT:
        return "the contents of the file are wrong";
    case RMG_ERR_FORBIDDEN:
        return "an access outside the permitted words was refused";
    case RMG_ERR_MEMORY:
        return "this machine has no memory left for the result";
    }
    return "unknown status";
}
