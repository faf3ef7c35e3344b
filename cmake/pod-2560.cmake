# Firmware of the pod in an ATmega2560: parts of up to 19 address lines, words of up to 16 bits.
set(RMG_WORD_BITS 16 CACHE STRING "")
set(RMG_ADDR_BITS 32 CACHE STRING "")
set(RMG_POD ON CACHE BOOL "")
set(RMG_MCU atmega2560)
include(${CMAKE_CURRENT_LIST_DIR}/avr.cmake)
