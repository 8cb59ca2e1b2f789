#include "manual/manual.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/option_table.hpp"
#include "manual/completion.hpp"

namespace orchard {
namespace {

// Text as the form of manual pages wants it: no line is taken for a request, no dash for a hyphen.
std::string escaped(std::string_view text) {
  std::string result;
  for (const char c : text) {
    if (c == '\\') {
      result += "\\e";
    } else if (c == '-') {
      result += "\\-";
    } else if ((c == '.' || c == '\'') && (result.empty() || result.back() == '\n')) {
      result += "\\&";
      result += c;
    } else {
      result += c;
    }
  }
  return result;
}

std::string bold(std::string_view text) {
  return "\\fB" + escaped(text) + "\\fR";
}
std::string italic(std::string_view text) {
  return "\\fI" + escaped(text) + "\\fR";
}

std::string head(const std::string& name, std::string_view summary, const std::string& version,
                 const std::string& date) {
  return fmt::format(".TH {} 1 \"{}\" \"orchard {}\" \"Clever Orchard\"\n.SH NAME\n{} \\- {}\n",
                     name, date, version, escaped(name), escaped(summary));
}

std::string synopsis(const CommandFacts& command) {
  std::string text = ".SH SYNOPSIS\n" + bold(fmt::format("orchard {}", command.name));
  if (!command.form.empty()) text += " " + italic(command.form);
  if (!command.arguments.empty()) text += " " + italic(command.arguments);
  if (!command.more.empty()) text += " " + italic(command.more);
  return text + " [" + italic("options") + "]\n";
}

std::string options_of(const CommandFacts& command) {
  std::string text = ".SH OPTIONS\n.TP\n" + bold("--help") + "\ndescribe the command\n";
  for (const OptionFacts& option : option_table()) {
    if (!option.belongs_to(command.name)) continue;
    text += ".TP\n" + bold(fmt::format("--{}", option.name));
    if (!option.value.empty()) text += " " + italic(option.value);
    text += "\n" + escaped(option.help);
    if (!option.initial.empty()) text += escaped(fmt::format(" [{}]", option.initial));
    text += "\n";
  }
  return text;
}

constexpr std::string_view statuses =
    ".SH EXIT STATUS\n"
    ".TP\n0\ndone, and nothing failed\n"
    ".TP\n1\na case, a requirement, a claim or a suspicious finding failed; there is no such "
    "position\n"
    ".TP\n2\nthe call or a file is wrong\n"
    ".TP\n3\na budget, a limit or an interrupt ended it before the answer\n";

std::string page(const CommandFacts& command, const std::string& version, const std::string& date) {
  return head(fmt::format("orchard-{}", command.name), command.summary, version, date) +
         synopsis(command) + ".SH DESCRIPTION\n" + escaped(command.details) + "\n" +
         options_of(command) + std::string(statuses) + ".SH SEE ALSO\n.BR orchard (1)\n";
}

std::string main_page(const std::string& version, const std::string& date) {
  std::string text =
      head("orchard", "turn-based games derived from their rules", version, date) +
      ".SH SYNOPSIS\n" + bold("orchard") + " " + italic("command") + " " + italic("GAME") + " [" +
      italic("options") + "]\n.SH DESCRIPTION\n" +
      escaped(
          "GAME is a description in the Game Description Language: NAME.gdl in its prefix "
          "syntax, NAME.gdli in the infix one. Results go to standard output, progress and "
          "remarks to standard error.") +
      "\n.SH COMMANDS\n";
  for (const CommandFacts& command : command_table()) {
    text += fmt::format(".TP\n.BR orchard\\-{} (1)\n{}\n", command.name, escaped(command.summary));
  }
  return text + std::string(statuses);
}

}  // namespace

std::vector<ManualFile> manual(const std::string& version, const std::string& date) {
  std::vector<ManualFile> files{{"man1/orchard.1", main_page(version, date)},
                                {"bash/orchard", bash_completion()},
                                {"zsh/_orchard", zsh_completion()}};
  for (const CommandFacts& command : command_table()) {
    files.push_back({fmt::format("man1/orchard-{}.1", command.name), page(command, version, date)});
  }
  return files;
}

}  // namespace orchard
