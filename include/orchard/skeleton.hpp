// A description to start from: a small game with comments, its cases, claims and drawing rules. Any
// thread may call.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace orchard {

// One file of a new game.
struct SkeletonFile {
  std::string name;  // "pots.gdl"
  // The text of the file.
  std::string text;
};

// The files of a new game of that name, which is used as it is; the description comes first. It can
// be played, all cases pass, and a check finds nothing wrong.
std::vector<SkeletonFile> skeleton(std::string_view name);

}  // namespace orchard
