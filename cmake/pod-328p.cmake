# Firmware of the pod in an ATmega328P: parts of up to 18 address lines, words of up to 8 bits.
set(RMG_ADDR_BITS 32 CACHE STRING "")
set(RMG_POD ON CACHE BOOL "")
include(${CMAKE_CURRENT_LIST_DIR}/avr.cmake)
