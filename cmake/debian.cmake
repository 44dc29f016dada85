# What Debian's policy wants of a package.
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SECTION electronics)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_SUGGESTS "gcc-avr, avr-libc")
set(CPACK_DEBIAN_PACKAGE_DESCRIPTION
    "A C library and a command-line tool for makers of receiver firmware. A plan
says what each key of a remote does; the tool checks it, runs it on a
simulated bench, draws its wiring, and writes it as C tables for a chip.")

# A file with a compressed copy under its Debian name, without a time in it.
find_program(GZIP gzip)
if(NOT GZIP)
  return()
endif()
set(changelog ${CMAKE_CURRENT_BINARY_DIR}/changelog)
file(WRITE ${changelog} "dromikos (${PROJECT_VERSION}) stable; urgency=medium

  * See CHANGELOG.md.

 -- ${CPACK_PACKAGE_CONTACT}  Wed, 02 Dec 2026 12:00:00 +0000
")
execute_process(COMMAND ${GZIP} -9nc ${changelog} OUTPUT_FILE ${changelog}.gz)
execute_process(COMMAND ${GZIP} -9nc ${CMAKE_CURRENT_SOURCE_DIR}/cmake/dromikos.1 OUTPUT_FILE ${CMAKE_CURRENT_BINARY_DIR}/dromikos.1.gz)
file(READ ${CMAKE_CURRENT_SOURCE_DIR}/LICENSE license)
file(WRITE ${CMAKE_CURRENT_BINARY_DIR}/copyright "Upstream-Name: dromikos\n\n${license}")
install(FILES ${changelog}.gz ${CMAKE_CURRENT_BINARY_DIR}/copyright DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/dromikos.1.gz DESTINATION ${CMAKE_INSTALL_MANDIR}/man1)
