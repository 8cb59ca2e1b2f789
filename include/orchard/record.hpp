// A match written down: JSON lines, one document a line, each written as it happens.
//
//   {"record":"orchard-match","version":2,"game":"espalier.gdl","rules":"<digest>",
//    "roles":["east","west"],"players":{"east":"Ada"},"seats":{"west":"random"},"seed":1,"seal":"…"}
//   {"ply":0,"joint":{"east":"(tie 1 1)","west":"wait"},"seal":"…"}
//   …
//   {"result":{"east":100,"west":0},"reason":"terminal","seal":"…"}
//
// docs/FORMATS.md has every member. A seal is a check sum of its line and of all lines before it,
// so that what was changed, left out or moved is noticed. The result line is there once the match
// is over. The digest is that of the rules without their comments and layout. Values; any thread
// may call; a RecordWriter belongs to one thread at a time.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "orchard/match.hpp"

namespace orchard {

// Why a move of a match was made by the referee in place of its player.
struct Replacement {
  // What was wrong: "late", "illegal", "unreadable", "refused" (it would not answer) or
  // "unreachable".
  std::string why;
  // What the player said instead, if it said something.
  std::string said;
};

// What a record tells of a ply beside the moves; whatever is not known is left out.
struct PlyNotes {
  std::map<std::string, double> seconds;                // role → time of its choice
  std::map<std::string, Replacement> replaced;          // role → why its move is the referee's
  std::map<std::string, std::vector<Term>> percepts{};  // role → what it saw
  std::optional<std::vector<Term>> position{};          // after the ply, if that was wanted
  int line = 0;                                         // of the file it was read from, from 1
};

// How a match ended.
struct RecordedEnd {
  // "terminal"; "stuck": a role had no legal move; "plies": broken off at the most plies;
  // "stopped": by a person or an interrupt; "forfeit": by an illegal or a late move.
  std::string reason;
  std::map<std::string, std::int64_t> goals;  // role → its goal, where there is exactly one
  int line = 0;                               // of the file it was read from, from 1
};

// A match as it is kept in a file.
struct MatchRecord {
  // The version of the form of records that this library writes.
  static constexpr int version = 2;

  std::string game;   // name of the description
  std::string rules;  // digest
  // The names of the roles, in the order of the rules.
  std::vector<std::string> roles;
  std::map<std::string, std::string> players;  // role → name of who plays it
  std::map<std::string, std::string> seats;    // role → kind of player, such as random
  // The seed of all random choices in the match.
  std::uint64_t seed = 1;
  std::string began;                          // when, "2026-05-01T09:30:00Z"; may be empty
  std::optional<double> start_seconds{};      // of the clock before the first move
  std::optional<double> play_seconds{};       // of the clock of each move
  std::map<std::string, std::int64_t> sizes;  // of the description, where others were given
  std::string description;                    // the rules themselves; may be empty
  std::vector<Term> start;                    // empty: the start of the game
  std::vector<std::vector<Term>> joints;      // by ply, in the order of the roles
  std::vector<PlyNotes> notes;                // by ply; may be shorter than `joints`
  std::vector<Tally> score;                   // of games played before in the same sitting
  std::optional<RecordedEnd> end;             // none while it is being played, or was cut off
  bool cut = false;                           // its last line was cut off and left out
  int line = 1;                               // of the file at which it begins

  // role → how many of its moves the host made.
  std::map<std::string, std::uint64_t> replaced() const;
};

// What a match has come to so far.
MatchRecord record_of(const Match& match);
// How a match ended, if it is over.
std::optional<RecordedEnd> end_of(const Match& match);

// The record as JSON lines; the result stands at the end once the match is over.
std::string to_json_lines(const MatchRecord& record, const Match& match);

// What is accepted beside whole records.
struct ReadOptions {
  // A last line that was cut off, as by a crash, is left out, and the record is marked as cut.
  bool cut_line = false;
};
// Reads a record. Fails with `cannot-read` and `bad-record`, at the line that is wrong.
Result<MatchRecord> read_record(const std::string& path, const ReadOptions& options = {});
// Reads a record from the text of its file.
Result<MatchRecord> record_from_text(std::string json_lines, const ReadOptions& options = {});
// Reads all records of a file, one behind another.
Result<std::vector<MatchRecord>> read_records(const std::string& path,
                                              const ReadOptions& options = {});

// The match again, every move checked. Fails with `record-mismatch` if the roles differ or a move
// is not legal under these rules.
Result<Match> replay(const Game& game, const MatchRecord& record);

// Everything in a record that is not so under the rules: another digest, moves that are not legal,
// percepts, positions, goals or an end that are not what the rules say. Empty if all is right.
// `file` is what places are told in. O(plies × evaluation).
Diagnostics verify_record(const Game& game, const MatchRecord& record,
                          const std::string& file = "record");

// Writes a match to a file while it is played: each line is with the system before the next move,
// so a crash of the process loses at most the ply in progress.
class RecordWriter {
 public:
  // Begins a record in a file; behind what it holds already if `append`. Fails with
  // `cannot-write`. A file that is there is replaced unless `append`.
  static Result<RecordWriter> begin(const std::string& path, const MatchRecord& head,
                                    bool append = false);
  ~RecordWriter();
  RecordWriter(RecordWriter&&) noexcept;
  RecordWriter& operator=(RecordWriter&&) noexcept;

  // A ply that was played. Fails with `cannot-write`, and writes nothing more from then on.
  Diagnostics add(const std::vector<Term>& joint, const PlyNotes& notes = {});
  // Moves were taken back: play goes on behind so many plies.
  Diagnostics go_back(std::uint64_t plies);
  // The end of the match.
  Diagnostics end(const RecordedEnd& end);

 private:
  struct File;
  explicit RecordWriter(std::unique_ptr<File> file);
  Diagnostics write(std::string line);
  std::unique_ptr<File> file_;
};

}  // namespace orchard
