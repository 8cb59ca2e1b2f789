#include "orchard/record.hpp"

#include <fcntl.h>
#include <fmt/core.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "match/record_lines.hpp"
#include "syntax/source.hpp"

namespace orchard {
namespace {

Diagnostic fault_at(const syntax::Source& source, std::size_t begin, std::size_t end,
                    std::string message) {
  Diagnostic diagnostic =
      plain_error("bad-record", std::move(message),
                  "records are written by play, host and series; see docs/FORMATS.md");
  diagnostic.place =
      source.place(static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(end));
  return diagnostic;
}

}  // namespace

std::map<std::string, std::uint64_t> MatchRecord::replaced() const {
  std::map<std::string, std::uint64_t> result;
  for (const PlyNotes& ply : notes) {
    for (const auto& [role, why] : ply.replaced) ++result[role];
  }
  return result;
}

std::optional<RecordedEnd> end_of(const Match& match) {
  if (!match.over()) return std::nullopt;
  const Game& game = match.game();
  RecordedEnd end{game.terminal(match.position()) ? "terminal" : "stuck", {}, 0};
  for (const Role& role : game.roles()) {
    if (const auto value = game.goal(match.position(), role)) end.goals[role.name()] = *value;
  }
  return end;
}

MatchRecord record_of(const Match& match) {
  MatchRecord record;
  const Game& game = match.game();
  record.game = game.name();
  record.rules = game.digest();
  for (const Role& role : game.roles()) record.roles.push_back(role.name());
  if (!(match.start() == game.initial())) record.start = match.start().fluents();
  for (const JointMove& joint : match.joints()) {
    std::vector<Term>& moves = record.joints.emplace_back();
    for (const Move& move : joint) moves.push_back(move.term());
  }
  return record;
}

std::string to_json_lines(const MatchRecord& record, const Match& match) {
  Seals seals;
  std::string text = seals.sealed(head_document(record)) + "\n";
  for (std::size_t ply = 0; ply < record.joints.size(); ++ply) {
    const PlyNotes notes = ply < record.notes.size() ? record.notes[ply] : PlyNotes();
    text += seals.sealed(ply_document(record, ply, record.joints[ply], notes)) + "\n";
  }
  const auto end = record.end ? record.end : end_of(match);
  if (end) text += seals.sealed(end_document(*end)) + "\n";
  return text;
}

namespace {

// Reads records line by line.
class RecordReader {
 public:
  RecordReader(const syntax::Source& source, const ReadOptions& options)
      : source_(source), options_(options) {}

  Result<std::vector<MatchRecord>> read() {
    const std::string_view text = source_.text();
    for (std::size_t begin = 0; begin < text.size();) {
      const std::size_t end = std::min(text.find('\n', begin), text.size());
      ++line_;
      const std::string_view line = text.substr(begin, end - begin);
      if (line.find_first_not_of(" \t\r") != std::string_view::npos) {
        // A line that was written completely ends in a line break.
        const bool cut = end == text.size() && !Json::accept(line);
        if (cut && options_.cut_line && !records_.empty()) {
          records_.back().cut = true;
          break;
        }
        const std::string why = cut ? "this line was cut off" : fault_in(line);
        if (!why.empty()) return fault_at(source_, begin, end, why);
      }
      begin = end + 1;
    }
    if (records_.empty()) return fault_at(source_, 0, 0, "the record is empty");
    return std::move(records_);
  }

 private:
  // Why a line cannot stand here; empty if it was taken.
  std::string fault_in(std::string_view line) {
    try {
      const Json document = Json::parse(line);
      if (!document.is_object()) throw std::invalid_argument("it is no JSON object");
      const bool is_head = document.contains("record");
      if (is_head || records_.empty()) {
        MatchRecord record;
        read_head(document, record);
        record.line = line_;
        records_.push_back(std::move(record));
        sealed_ = document.at("version").get<int>() > 1;
        seals_ = {};
      }
      if (sealed_ && !seals_.fits(line)) {
        if (is_head) records_.pop_back();
        return "its seal does not fit: this line was changed, or one before it is missing";
      }
      if (!is_head) read_line(document, records_.back());
      return {};
    } catch (const std::exception& fault) {
      return fmt::format("this line cannot be read: {}", fault.what());
    }
  }

  void read_line(const Json& document, MatchRecord& record) const {
    if (record.end) throw std::invalid_argument("the match has ended above");
    if (document.contains("ply")) {
      read_ply(document, record);
      record.notes.back().line = line_;
    } else if (document.contains("back")) {
      read_back(document, record);
    } else if (document.contains("result")) {
      read_end(document, record);
      record.end->line = line_;
    } else {
      throw std::invalid_argument("it is neither a ply nor a result");
    }
  }

  const syntax::Source& source_;
  const ReadOptions& options_;
  std::vector<MatchRecord> records_;
  Seals seals_;
  bool sealed_ = false;
  int line_ = 0;
};

Result<MatchRecord> only_record(const syntax::Source& source, const ReadOptions& options) {
  auto records = RecordReader(source, options).read();
  if (!records) return records.diagnostics();
  if (records->size() > 1) {
    return plain_error("bad-record", fmt::format("there are {} records", records->size()),
                       "give a file with one");
  }
  return std::move(records->front());
}

}  // namespace

Result<MatchRecord> read_record(const std::string& path, const ReadOptions& options) {
  const auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  return only_record(*source, options);
}

Result<MatchRecord> record_from_text(std::string json_lines, const ReadOptions& options) {
  return only_record(syntax::Source("record", std::move(json_lines)), options);
}

Result<std::vector<MatchRecord>> read_records(const std::string& path, const ReadOptions& options) {
  constexpr std::size_t most = 1u << 30;  // bytes: thousands of matches with their positions
  const auto source = syntax::Source::from_file(path, {.file_bytes = most});
  if (!source) return source.diagnostics();
  return RecordReader(*source, options).read();
}

Result<Match> replay(const Game& game, const MatchRecord& record) {
  std::vector<std::string> roles;
  for (const Role& role : game.roles()) roles.push_back(role.name());
  if (roles != record.roles) {
    return plain_error("record-mismatch", "the record is of a game with other roles",
                       "give the description it was played with: " + record.game);
  }
  std::optional<Position> start;
  if (!record.start.empty()) {
    auto position = game.position(record.start);
    if (!position) return position.diagnostics();
    start = *position;
  }
  Match match(game, start);
  for (std::size_t ply = 0; ply < record.joints.size(); ++ply) {
    JointMove joint;
    for (const Term& move : record.joints[ply]) joint.add(game.move(move));
    if (auto faults = match.play(joint); !faults.empty()) {
      Diagnostics all;
      all.add(plain_error("record-mismatch",
                          fmt::format("ply {} of the record is not legal under these rules", ply),
                          "give the description it was played with: " + record.game));
      all.append(faults);
      return all;
    }
  }
  return match;
}

struct RecordWriter::File {
  File(std::string path_, int number_, MatchRecord head_)
      : path(std::move(path_)), number(number_), head(std::move(head_)) {}
  ~File() { ::close(number); }
  File(const File&) = delete;

  std::string path;
  int number;
  MatchRecord head;  // without moves
  Seals seals;
  std::uint64_t plies = 0;
  bool failed = false;
};

RecordWriter::RecordWriter(std::unique_ptr<File> file) : file_(std::move(file)) {}
RecordWriter::~RecordWriter() = default;
RecordWriter::RecordWriter(RecordWriter&&) noexcept = default;
RecordWriter& RecordWriter::operator=(RecordWriter&&) noexcept = default;

namespace {

Diagnostic cannot_write(const std::string& path) {
  Diagnostic fault =
      plain_error("cannot-write", std::string("cannot write: ") + std::strerror(errno),
                  "check the folder and the room on the disk");
  fault.place.file = path;
  return fault;
}

}  // namespace

Result<RecordWriter> RecordWriter::begin(const std::string& path, const MatchRecord& head,
                                         bool append) {
  constexpr mode_t mode = 0666;
  const int way = O_WRONLY | O_CREAT | O_CLOEXEC | O_APPEND | (append ? 0 : O_TRUNC);
  const int number = ::open(path.c_str(), way, mode);
  if (number < 0) return cannot_write(path);
  MatchRecord kept = head;
  kept.joints.clear();
  kept.notes.clear();
  RecordWriter writer(std::make_unique<File>(path, number, std::move(kept)));
  File& file = *writer.file_;
  if (Diagnostics faults = writer.write(file.seals.sealed(head_document(file.head)));
      !faults.empty()) {
    return faults;
  }
  for (std::size_t ply = 0; ply < head.joints.size(); ++ply) {
    const PlyNotes notes = ply < head.notes.size() ? head.notes[ply] : PlyNotes();
    if (Diagnostics faults = writer.add(head.joints[ply], notes); !faults.empty()) return faults;
  }
  return writer;
}

// A line at once, so that readers and crashes see it completely or not at all, as far as the system
// does so.
Diagnostics RecordWriter::write(std::string line) {
  Diagnostics faults;
  if (file_->failed) return faults;
  line += '\n';
  std::string_view left = line;
  while (!left.empty()) {
    const ssize_t written = ::write(file_->number, left.data(), left.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) {
      faults.add(cannot_write(file_->path));
      file_->failed = true;
      return faults;
    }
    left.remove_prefix(static_cast<std::size_t>(written));
  }
  return faults;
}

Diagnostics RecordWriter::add(const std::vector<Term>& joint, const PlyNotes& notes) {
  return write(file_->seals.sealed(ply_document(file_->head, file_->plies++, joint, notes)));
}

Diagnostics RecordWriter::go_back(std::uint64_t plies) {
  file_->plies = plies;
  return write(file_->seals.sealed(back_document(plies)));
}

Diagnostics RecordWriter::end(const RecordedEnd& end) {
  return write(file_->seals.sealed(end_document(end)));
}

}  // namespace orchard
