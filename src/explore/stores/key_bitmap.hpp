// A bit for every key of so many bits, in pages that take memory once one of their keys was put in.
//
// Several threads may use it at once if each keeps to pages of its own (`page_owners.hpp`).
// Memory: 4096 bytes for every page of 32 768 keys that was ever used, and a byte for every page.
#pragma once

#include <bit>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace orchard::explore {

class KeyBitmap {
 public:
  static constexpr std::uint32_t most_bits = 36;
  static constexpr std::size_t page_words = 512;
  static constexpr std::size_t page_keys = page_words * 64;

  // Null if the machine has no room for as many addresses. At most `most_bits`.
  static std::unique_ptr<KeyBitmap> make(std::uint32_t key_bits);

  bool contains(std::uint64_t key) const { return (words_[key / 64] >> (key % 64) & 1) != 0; }
  // Whether it is new.
  bool insert(std::uint64_t key) {
    std::uint64_t& word = words_[key / 64];
    const std::uint64_t before = word;
    // Without a branch, which would be foretold wrongly for every fourth key.
    word = before | std::uint64_t{1} << (key % 64);
    live_[key / page_keys] = touched;
    return (before >> (key % 64) & 1) == 0;
  }
  void prefetch(std::uint64_t key) const { __builtin_prefetch(&words_[key / 64], 1); }

  // Takes keys of a page out, ascending, a word of them at a time: of each word with keys those
  // that `choose(first key of the word, word)` gives, which `visit` is called with.
  template <class Choose, class Visit>
  void take_page(std::uint64_t page, Choose&& choose, Visit&& visit) {
    constexpr std::size_t line = 8;
    std::uint64_t* const words = words_.get() + page * page_words;
    live_[page] = emptied;  // unless something is left, or put in by a visit
    std::uint64_t left = 0;
    for (std::size_t from = 0; from < page_words; from += line) {
      std::uint64_t some = 0;
      for (std::size_t w = from; w < from + line; ++w) some |= words[w];
      if (some == 0) continue;
      for (std::size_t w = from; w < from + line; ++w) {
        const std::uint64_t word = words[w];
        if (word == 0) continue;
        const std::uint64_t first = (page * page_words + w) * 64;
        const std::uint64_t chosen = choose(first, word);
        left |= word & ~chosen;
        if (chosen == 0) continue;
        words[w] = word & ~chosen;
        visit(first, chosen);
      }
    }
    if (left != 0) live_[page] = touched;
  }
  // Calls visit(first key of the word, word) for each word of a page that has keys.
  template <class Visit>
  void look_at_page(std::uint64_t page, Visit&& visit) const {
    std::uint64_t* const words = words_.get() + page * page_words;
    for (std::size_t w = 0; w < page_words; ++w) {
      if (const std::uint64_t word = words[w]; word != 0) {
        visit((page * page_words + w) * 64, word);
      }
    }
  }
  // Puts in all that another one of the same size has.
  void insert_all(const KeyBitmap& other);

  std::uint64_t bytes() const;

  // The pages with keys, and their words; and back.
  std::vector<std::uint64_t> pages() const;
  std::span<const std::uint64_t> page(std::uint64_t number) const {
    return {words_.get() + number * page_words, page_words};
  }
  void put_word(std::uint64_t page, std::size_t place, std::uint64_t word) {
    words_[page * page_words + place] = word;
    live_[page] = touched;
  }

 private:
  static constexpr std::size_t pages_at_once = 512;  // that take memory together
  static constexpr std::uint8_t emptied = 1;
  static constexpr std::uint8_t touched = 2;
  struct Unmap {
    std::size_t bytes = 0;
    void operator()(std::uint64_t* words) const;
  };
  using Words = std::unique_ptr<std::uint64_t[], Unmap>;
  KeyBitmap(Words words, std::size_t pages) : words_(std::move(words)), live_(pages, 0) {}

  Words words_;
  std::vector<std::uint8_t> live_;  // by page
};

}  // namespace orchard::explore
