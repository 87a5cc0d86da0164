# SPDX-License-Identifier: GPL-3.0-or-later
# What the compiler's cache gives back is what would be compiled: a precompiled header whose only change is a comment is
# made anew, and a file that includes the changed header once more still compiles.
# cmake -DLAUNCHER=... -DCXX=... -DFOLDER=... -P build_cache.cmake
set(ENV{CCACHE_DIR} ${FOLDER}/cache)
file(REMOVE_RECURSE ${FOLDER})
file(MAKE_DIRECTORY ${FOLDER})

function(compile)
  execute_process(COMMAND ${LAUNCHER} ${CXX} -std=c++20 -Winvalid-pch ${ARGN}
    WORKING_DIRECTORY ${FOLDER} RESULT_VARIABLE failed ERROR_VARIABLE words)
  if(failed)
    message(FATAL_ERROR "${words}")
  endif()
endfunction()

function(build comment value)
  file(WRITE ${FOLDER}/once.h "#pragma once\n// ${comment}\nstruct Once { int value = ${value}; };\n")
  file(WRITE ${FOLDER}/use.cpp "// ${comment} ${value}\n#include \"once.h\"\nint main() { return Once{}.value - ${value}; }\n")
  # The cache trusts no file that is as young as the compilation.
  execute_process(COMMAND ${CMAKE_COMMAND} -E sleep 2)
  compile(-x c++-header -MD -MT all.hxx.gch -MF all.d -o all.hxx.gch -c all.cxx)
  compile(-include ${FOLDER}/all.hxx -MD -MT use.o -MF use.d -o use.o -c use.cpp)
  execute_process(COMMAND ${CXX} use.o -o use WORKING_DIRECTORY ${FOLDER} COMMAND_ERROR_IS_FATAL ANY)
  execute_process(COMMAND ${FOLDER}/use RESULT_VARIABLE difference)
  if(NOT difference EQUAL 0)
    message(FATAL_ERROR "the value of before (${difference} beside what the header says)")
  endif()
endfunction()

file(WRITE ${FOLDER}/all.hxx "#include \"${FOLDER}/once.h\"\n")
file(WRITE ${FOLDER}/all.cxx "#include \"${FOLDER}/once.h\"\n")
build("some words" 5)
build("other words" 5)
build("other words" 6)
build("some words" 5)
file(REMOVE_RECURSE ${FOLDER})
