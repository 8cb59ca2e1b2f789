// A match written down: JSON lines, one document a line.
//
//   {"record":"orchard-match","version":1,"game":"espalier.gdl","rules":"<digest>",
//    "roles":["east","west"],"players":{"east":"Ada"},"seats":{"west":"random"},"seed":1}
//   {"ply":0,"joint":{"east":"(tie 1 1)","west":"wait"}}
//   …
//   {"result":{"east":100,"west":0}}
//
// The first line may carry "start", a list of fluents, if the match did not begin at the start of
// the game. The result line is there once the match is over. The digest is that of the rules
// without their comments and layout. Values; any thread may call.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "orchard/match.hpp"

namespace orchard {

// A match as it is kept in a file.
struct MatchRecord {
  // The version of the form of records that this library writes.
  static constexpr int version = 1;

  std::string game;   // name of the description
  std::string rules;  // digest
  // The names of the roles, in the order of the rules.
  std::vector<std::string> roles;
  std::map<std::string, std::string> players;  // role → name of who plays it
  std::map<std::string, std::string> seats;    // role → kind of player, such as random
  // The seed of all random choices in the match.
  std::uint64_t seed = 1;
  std::vector<Term> start;                // empty: the start of the game
  std::vector<std::vector<Term>> joints;  // by ply, in the order of the roles
  std::vector<Tally> score;               // of games played before in the same sitting
};

// What a match has come to so far.
MatchRecord record_of(const Match& match);

// The record as JSON lines; the result stands at the end once the match is over.
std::string to_json_lines(const MatchRecord& record, const Match& match);
// Reads a record. Fails with `cannot-read` and `bad-record`.
Result<MatchRecord> read_record(const std::string& path);
// Reads a record from the text of its file.
Result<MatchRecord> record_from_text(std::string json_lines);

// The match again, every move checked. Fails with `record-mismatch` if the roles differ or a move
// is not legal under these rules.
Result<Match> replay(const Game& game, const MatchRecord& record);

}  // namespace orchard
