// The manual of the command, made from the option table: pages in the form of `man`, and what
// shells complete. Nothing here lists a command or an option.
#pragma once

#include <string>
#include <vector>

namespace orchard {

struct ManualFile {
  std::string path;  // below the folder that holds them all: "man1/orchard-show.1"
  std::string text;
};

// A page for the command, one for each of its commands, and the completions for bash and zsh.
std::vector<ManualFile> manual(const std::string& version, const std::string& date);

}  // namespace orchard
