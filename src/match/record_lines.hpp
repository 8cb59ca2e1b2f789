// The lines of a match record, and their seals.
#pragma once

#include <string>
#include <string_view>

#include "base/json.hpp"
#include "orchard/record.hpp"

namespace orchard {

// Seals lines: each with a check sum of it and of all before it (XXH3, 64 bits).
class Seals {
 public:
  // A document as a line with its seal, without the line break.
  std::string sealed(const Json& document);
  // Whether a line, which ends in its seal, is the next one; a line that is not changes nothing.
  bool fits(std::string_view line);

 private:
  std::string next(std::string_view text) const;
  std::string last_;
};

Json head_document(const MatchRecord& record);
Json ply_document(const MatchRecord& record, std::uint64_t ply, const std::vector<Term>& joint,
                  const PlyNotes& notes);
Json back_document(std::uint64_t plies);
Json end_document(const RecordedEnd& end);

// The other way round. They throw std::exception for what is no such document.
void read_head(const Json& line, MatchRecord& record);
void read_ply(const Json& line, MatchRecord& record);
void read_back(const Json& line, MatchRecord& record);
void read_end(const Json& line, MatchRecord& record);

}  // namespace orchard
