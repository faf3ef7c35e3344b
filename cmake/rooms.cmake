# Reads rooms.txt. A room has a view: a folder in which its public headers stand as rimeglass/NAME.h
# and its internal.h as ROOM/internal.h. What is compiled in a room has the views of the rooms it may
# include on its path, and nothing else of the project.
set(RMG_ROOMS)
file(STRINGS ${CMAKE_CURRENT_LIST_DIR}/rooms.txt lines REGEX "^[a-z]")
set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${CMAKE_CURRENT_LIST_DIR}/rooms.txt)
foreach(line ${lines})
  string(REGEX REPLACE "  +" ";" cells "${line}")
  list(GET cells 0 room)
  list(GET cells 1 RMG_FOLDER_${room})
  list(GET cells 2 headers)
  list(GET cells 3 sees)
  string(REPLACE " " ";" RMG_HEADERS_${room} "${headers}")
  string(REPLACE " " ";" RMG_SEES_${room} "${sees}")
  string(REPLACE "-" "" RMG_SEES_${room} "${RMG_SEES_${room}}")
  list(APPEND RMG_ROOMS ${room})

  set(view ${CMAKE_BINARY_DIR}/views/${room})
  foreach(header ${RMG_HEADERS_${room}})
    file(CONFIGURE OUTPUT ${view}/rimeglass/${header}.h
      CONTENT "#include \"${CMAKE_SOURCE_DIR}/include/rimeglass/${header}.h\"\n")
  endforeach()
  if(EXISTS ${CMAKE_SOURCE_DIR}/${RMG_FOLDER_${room}}/internal.h)
    file(CONFIGURE OUTPUT ${view}/${room}/internal.h
      CONTENT "#include \"${CMAKE_SOURCE_DIR}/${RMG_FOLDER_${room}}/internal.h\"\n")
  endif()
endforeach()

# The object library room-NAME.
function(rmg_room room)
  file(GLOB sources CONFIGURE_DEPENDS ${CMAKE_SOURCE_DIR}/${RMG_FOLDER_${room}}/*.c)
  add_library(room-${room} OBJECT ${sources})
  target_include_directories(room-${room} PRIVATE ${CMAKE_BINARY_DIR}/include)
  foreach(seen ${room} ${RMG_SEES_${room}})
    target_include_directories(room-${room} PRIVATE ${CMAKE_BINARY_DIR}/views/${seen})
  endforeach()
endfunction()

# What glib declares, read once for all targets that have the same definitions as the first of its
# kind: where many builds follow each other.
function(rmg_precompiled target)
  if(NOT RMG_PRECOMPILED)
    return()
  endif()
  get_target_property(kind ${target} TYPE)
  get_property(first GLOBAL PROPERTY rmg_first_${kind})
  if(first)
    target_precompile_headers(${target} REUSE_FROM ${first})
  else()
    target_precompile_headers(${target} PRIVATE <glib.h>)
    set_property(GLOBAL PROPERTY rmg_first_${kind} ${target})
  endif()
endfunction()
