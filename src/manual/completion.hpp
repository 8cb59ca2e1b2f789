// What shells complete: commands, options, files, the roles of the game, and the values of options.
#pragma once

#include <string>

namespace orchard {

std::string bash_completion();
std::string zsh_completion();

}  // namespace orchard
