# Installs the build into a folder of its own, builds the visitor against it and runs it.
set(prefix ${BUILD_FOLDER}/tests/installed)
set(visitor ${BUILD_FOLDER}/tests/visitor)
file(REMOVE_RECURSE ${prefix} ${visitor})

function(step)
  execute_process(COMMAND ${ARGN} RESULT_VARIABLE status OUTPUT_VARIABLE output ERROR_VARIABLE output)
  if(NOT status EQUAL 0)
    message(FATAL_ERROR "${ARGN}\n${output}")
  endif()
  set(output "${output}" PARENT_SCOPE)
endfunction()

step(${CMAKE_COMMAND} --install ${BUILD_FOLDER} --prefix ${prefix})
step(${CMAKE_COMMAND} -S ${SOURCE_FOLDER} -B ${visitor} -G Ninja -D CMAKE_PREFIX_PATH=${prefix}
     -D SANITIZE=${SANITIZE})
step(${CMAKE_COMMAND} --build ${visitor})
step(${visitor}/visitor ${GAME})
if(NOT output STREQUAL "2545 positions\n")
  message(FATAL_ERROR "the visitor says: ${output}")
endif()
step(${prefix}/bin/orchard --version)
