#include <fmt/core.h>
#include <pugixml.hpp>

#include <sstream>

#include "base/markup.hpp"
#include "base/utf8.hpp"
#include "orchard/report.hpp"

namespace orchard {

std::string to_junit(const std::vector<CaseResult>& results, std::string_view name) {
  pugi::xml_document document;
  pugi::xml_node declaration = document.append_child(pugi::node_declaration);
  declaration.append_attribute("version") = "1.0";
  declaration.append_attribute("encoding") = "UTF-8";
  pugi::xml_node suites = document.append_child("testsuites");
  pugi::xml_node suite = suites.append_child("testsuite");
  std::size_t failed = 0;
  for (const CaseResult& result : results) failed += result.passed() ? 0 : 1;
  for (pugi::xml_node node : {suites, suite}) {
    node.append_attribute("name") = safe_for_markup(name).c_str();
    node.append_attribute("tests") = static_cast<unsigned long long>(results.size());
    node.append_attribute("failures") = static_cast<unsigned long long>(failed);
    node.append_attribute("errors") = 0;
  }
  for (const CaseResult& result : results) {
    pugi::xml_node test = suite.append_child("testcase");
    test.append_attribute("name") = safe_for_markup(result.name).c_str();
    test.append_attribute("classname") = safe_for_markup(name).c_str();
    test.append_attribute("file") = safe_for_markup(result.place.file).c_str();
    test.append_attribute("line") = result.place.line;
    if (result.passed()) continue;
    std::string text;
    for (const CaseFailure& failure : result.failures) {
      text +=
          fmt::format("{}:{}:{}: expected {}, found: {}\n", failure.place.file, failure.place.line,
                      failure.place.column, failure.expected, failure.found);
    }
    if (result.position) text += fmt::format("at {}\n", result.position->to_string());
    const CaseFailure& first = result.failures.front();
    pugi::xml_node failure = test.append_child("failure");
    failure.append_attribute("message") =
        safe_for_markup(fmt::format("expected {}, found: {}", first.expected, first.found)).c_str();
    failure.append_attribute("type") = "expectation";
    failure.append_child(pugi::node_pcdata).set_value(safe_for_markup(text).c_str());
  }
  std::ostringstream stream;
  document.save(stream, "  ", pugi::format_indent, pugi::encoding_utf8);
  return stream.str();
}

}  // namespace orchard
