// The records that a call names, and the rules that they were played by.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "cli/call.hpp"
#include "orchard/record.hpp"

namespace orchard::cli {

// A record, where it stands, and what is known of it.
struct FiledRecord {
  std::string file;
  MatchRecord record;
  std::shared_ptr<const Game> game;  // none if its rules were not found
  std::string rules_file;            // empty if they stand in the record
  Diagnostics faults;                // what is not so under the rules, or cannot be played
  std::optional<Match> match;        // as it was played, if it can be
};

// Those of files and folders (*.jsonl), in the order in which they are named; what cannot be read
// is told in `unreadable`, and the others are there all the same. Rules are those of --game, or of
// the record itself, or of a description of its name beside the record or in the present folder.
std::vector<FiledRecord> filed_records(const Call& call, const std::vector<std::string>& names,
                                       Diagnostics& unreadable);

}  // namespace orchard::cli
