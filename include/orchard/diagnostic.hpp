// What the library says about a description, a position or a call that is wrong.
//
// A diagnostic is a value: nothing is printed. It carries a stable code (for scripts and for
// silencing), a severity, the place in the text, a sentence saying what is wrong and, where one
// is known, the remedy. `render` gives the form the command prints:
//
//   pear.gdl:12:9: error: ?x stands in the head and in no positive condition [unsafe-variable]
//      (<= (next (cell ?x ?y)) (true (cell 1 ?y)))
//                      ^~
//      remedy: add a condition that says which values ?x can take
//
// Values; safe to share between threads once built.
#pragma once

#include <concepts>
#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace orchard {

// How serious a diagnostic is.
enum class Severity {
  error,       // breaks the language, or cannot be carried out
  suspicious,  // legal, but almost surely a slip
  hint,        // a matter of style
};

// The word that the command prints for it.
std::string_view name_of(Severity severity);

// A stretch of text in a file. Lines and columns count from 1; columns count characters, not
// bytes. `line == 0` means the whole file, or no file at all.
struct Place {
  // The file name; empty if the diagnostic has no place.
  std::string file;
  // From 1; 0 for the whole file.
  int line = 0;
  // The column, counted from 1, in characters.
  int column = 0;
  int width = 1;            // characters to underline, within the line
  std::string source_line;  // printable excerpt of the line, not always from its first column
  int excerpt_column = 0;   // column of the caret within `source_line`, counted from 1
};

// A second place that belongs to a diagnostic, for example where a cycle goes on.
struct Note {
  // The place that the note refers to.
  Place place;
  // What the note says about that place.
  std::string message;
};

// A name that was written for another one.
struct Correction {
  // The name as it was written, in lower case: the first of that name from the place on is meant.
  std::string written;
  // What to write instead.
  std::string instead;
};

// What to do about something that is wrong: a sentence and, where it is as plain as that, the name
// to write instead.
struct Remedy {
  // A sentence without a correction.
  template <class Text>
  requires std::convertible_to<Text, std::string> Remedy(Text&& sentence)
      : text(std::forward<Text>(sentence)) {}
  Remedy() = default;
  // Something misspelled: "did you mean `meant`?", which is the correction too.
  static Remedy name_meant(std::string_view written, std::string_view meant);

  std::string text;                        // the sentence; empty if none is known
  std::optional<Correction> correction{};  // the name to write instead, if it is that
};

// One thing that is wrong, or looks wrong.
struct Diagnostic {
  // A stable name of the kind of problem, such as "unsafe-variable".
  std::string code;
  // How serious it is.
  Severity severity = Severity::error;
  // What is wrong, as one sentence.
  std::string message;
  // The place of the problem.
  Place place;
  std::string remedy;  // empty if none is known
  // The name to write instead, where the remedy is as plain as that.
  std::optional<Correction> correction{};
  bool is_limit = false;  // nothing is wrong: a bound on work or memory was met
  // Further places that help to understand the problem.
  std::vector<Note> notes;
};

// The text form shown above, ending in a line break.
std::string render(const Diagnostic& diagnostic);

// Diagnostics in the order in which they were found, at most `most_kept` of them: past that they
// are counted, not kept, so that a hostile file cannot fill memory with messages.
class [[nodiscard]] Diagnostics {
 public:
  // The most diagnostics that are kept; further ones are only counted.
  static constexpr std::size_t most_kept = 100;

  // Adds one, or counts it if there are too many.
  void add(Diagnostic diagnostic);
  // For makers of many messages: whether one more would only be counted, and to count it.
  bool full() const { return items_.size() >= most_kept; }
  // Counts one that is not kept.
  void count(Severity severity);
  // Adds all diagnostics of another list.
  void append(const Diagnostics& others);

  // True if there is no diagnostic.
  bool empty() const { return items_.empty(); }
  // True if at least one diagnostic is an error.
  bool has_errors() const { return errors_ > 0; }
  // How many are errors, those not kept included.
  std::size_t errors() const { return errors_; }
  // Whether nothing is wrong but that a bound was met.
  bool only_limits() const;
  // The number of diagnostics that were counted but not kept.
  std::size_t left_out() const { return left_out_; }
  // The diagnostics that were kept, in the order in which they were added.
  const std::vector<Diagnostic>& items() const { return items_; }
  // The first diagnostic that was kept.
  auto begin() const { return items_.begin(); }
  // The end of the diagnostics that were kept.
  auto end() const { return items_.end(); }

  // Orders by file, line and column, for a reader who goes through the file from the top.
  void sort_by_place();

  // All of them as the command prints them.
  std::string render() const;

 private:
  std::vector<Diagnostic> items_;
  std::size_t errors_ = 0;
  std::size_t left_out_ = 0;
};

// A diagnostic without a place in a file, as for a wrong call or an illegal move.
Diagnostic plain_error(std::string code, std::string message, Remedy remedy = {});

}  // namespace orchard
