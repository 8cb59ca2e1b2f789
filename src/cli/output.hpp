// What the command writes to its two streams. Everything goes through here.
//
// Writing never throws and never ends the process: what could not be written to standard output is
// told at the end (`output_fault`), and what could not be written to standard error is lost.
// Control characters that a name or a file brought along are shown as \x1b and the like; the
// command's own colours and movements of the cursor pass.
#pragma once

#include <fmt/core.h>

#include <optional>
#include <string>
#include <string_view>

namespace orchard::cli {

void write_out(std::string_view text);
void write_error(std::string_view text);

// To standard output: what was asked for.
template <class... Values>
void print(fmt::format_string<Values...> form, Values&&... values) {
  write_out(fmt::format(form, std::forward<Values>(values)...));
}
// To standard error: remarks, progress, what is wrong.
template <class... Values>
void remark(fmt::format_string<Values...> form, Values&&... values) {
  write_error(fmt::format(form, std::forward<Values>(values)...));
}

// Streams that are closed get something to stand for them, so that no file that is opened later is
// taken for one of them. To be called first.
void open_missing_streams();
// Writes what is still waiting. Why not all of standard output could be written, if so.
std::optional<std::string> output_fault();

}  // namespace orchard::cli
