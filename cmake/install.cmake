# What is installed, and how it is packed.
#
#   bin/dromikos                the tool
#   include/dromikos/           the headers
#   lib/libdromikos.a           the core, with all features
#   lib/libdromikos-sim.a       the simulated bench
#   lib/cmake/Dromikos/         find_package(Dromikos): Dromikos::core, Dromikos::sim
#   lib/pkgconfig/              dromikos, dromikos-sim
#   share/dromikos/             include/, src/ and ports/, to be copied into a program for a chip
#   share/doc/dromikos/         the documentation and the examples
#   share/man/man1/dromikos.1   a manual page
include(GNUInstallDirs)
include(CMakePackageConfigHelpers)

set(installed dromikos_core)
if(TARGET dromikos_sim)
  list(APPEND installed dromikos_sim)
endif()
install(TARGETS ${installed} EXPORT DromikosTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(DIRECTORY include/dromikos DESTINATION ${CMAKE_INSTALL_INCLUDEDIR} FILES_MATCHING PATTERN "*.h")

set(package ${CMAKE_INSTALL_LIBDIR}/cmake/Dromikos)
install(EXPORT DromikosTargets NAMESPACE Dromikos:: DESTINATION ${package})
configure_package_config_file(cmake/DromikosConfig.cmake.in ${CMAKE_CURRENT_BINARY_DIR}/DromikosConfig.cmake INSTALL_DESTINATION ${package})
write_basic_package_version_file(${CMAKE_CURRENT_BINARY_DIR}/DromikosConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/DromikosConfig.cmake ${CMAKE_CURRENT_BINARY_DIR}/DromikosConfigVersion.cmake DESTINATION ${package})
# Relative, so that the folder may be moved.
file(RELATIVE_PATH PREFIX_OF_MODULE /prefix/${CMAKE_INSTALL_LIBDIR}/pkgconfig /prefix)
foreach(module dromikos dromikos-sim)
  configure_file(cmake/${module}.pc.in ${CMAKE_CURRENT_BINARY_DIR}/${module}.pc @ONLY)
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/${module}.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
endforeach()

install(DIRECTORY include src ports DESTINATION ${CMAKE_INSTALL_DATADIR}/dromikos FILES_MATCHING PATTERN "*.h" PATTERN "*.c")
install(FILES README.md CONTRIBUTING.md LICENSE DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(DIRECTORY docs DESTINATION ${CMAKE_INSTALL_DOCDIR} FILES_MATCHING PATTERN "*.md" PATTERN "*.png" PATTERN "*.svg" PATTERN "*.csv")
install(DIRECTORY examples DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(FILES CHANGELOG.md DESTINATION ${CMAKE_INSTALL_DOCDIR})

set(CPACK_PACKAGE_VENDOR "The Dromikos authors")
set(CPACK_PACKAGE_CONTACT "The Dromikos authors <authors@dromikos.invalid>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "${PROJECT_DESCRIPTION}")
set(CPACK_RESOURCE_FILE_LICENSE ${CMAKE_CURRENT_SOURCE_DIR}/LICENSE)
set(CPACK_SOURCE_GENERATOR TGZ)
set(CPACK_SOURCE_PACKAGE_FILE_NAME dromikos-${PROJECT_VERSION})
set(CPACK_SOURCE_IGNORE_FILES "^${CMAKE_CURRENT_SOURCE_DIR}/build/;^${CMAKE_CURRENT_SOURCE_DIR}/\\.git/;^${CMAKE_CURRENT_SOURCE_DIR}/\\.ci/")
set(CPACK_GENERATOR DEB)
set(CPACK_STRIP_FILES ON)
include(cmake/debian.cmake)
include(CPack)
