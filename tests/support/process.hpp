// Runs the built command (or any program) as its users do.
#pragma once

#include <string>
#include <vector>

namespace orchard::testing {

struct ProcessResult {
  int status = -1;  // exit status; 128 + signal if it was killed
  std::string out;
  std::string err;
};

// `input` is all of standard input. The environment is this process's, with LANG=C.UTF-8.
ProcessResult run_process(const std::vector<std::string>& words, const std::string& input = {});
ProcessResult run_orchard(std::vector<std::string> arguments, const std::string& input = {});

}  // namespace orchard::testing
