# The shared library: core, simulated board and host in one. It shows what the public headers
# declare, and nothing else: every name that stands in one of them, as it is or with the widths that
# RMG_ABI puts behind it.
file(GLOB headers CONFIGURE_DEPENDS ${CMAKE_SOURCE_DIR}/include/rimeglass/*.h)
set(names)
foreach(header ${headers})
  file(READ ${header} text)
  string(REGEX MATCHALL "rmg_[a-z0-9_]+" found "${text}")
  list(APPEND names ${found})
endforeach()
list(REMOVE_DUPLICATES names)
list(SORT names)
set(script "{\nglobal:\n")
foreach(name ${names})
  string(APPEND script "  ${name};\n  ${name}_${RMG_ABI_TAG};\n")
endforeach()
string(APPEND script "local:\n  *;\n};\n")
file(CONFIGURE OUTPUT ${CMAKE_BINARY_DIR}/shared.map CONTENT "${script}" @ONLY)

add_library(rimeglass-shared SHARED ${core_sources} $<TARGET_OBJECTS:room-sim> ${host_objects})
target_compile_options(rimeglass-shared PRIVATE -ffreestanding -fno-builtin)
target_include_directories(rimeglass-shared PUBLIC
  $<BUILD_INTERFACE:${CMAKE_BINARY_DIR}/include>
  $<BUILD_INTERFACE:${CMAKE_SOURCE_DIR}/include>
  $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>)
set_target_properties(rimeglass-shared PROPERTIES OUTPUT_NAME rimeglass EXPORT_NAME shared
  VERSION ${PROJECT_VERSION} SOVERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
target_link_options(rimeglass-shared PRIVATE -Wl,--version-script=${CMAKE_BINARY_DIR}/shared.map)
set_target_properties(rimeglass-shared PROPERTIES LINK_DEPENDS ${CMAKE_BINARY_DIR}/shared.map)
target_link_libraries(rimeglass-shared PRIVATE Threads::Threads PkgConfig::GLIB PkgConfig::YAML
  PkgConfig::JANSSON PkgConfig::CAIRO PkgConfig::ZLIB PkgConfig::NCURSES PkgConfig::SQLITE m)
