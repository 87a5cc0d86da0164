// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"
#include "exchange/delimited.h"

/// A table copied from a spreadsheet, put onto elements: planned and shown first, applied as one Edit only when
/// accepted.
///
/// With a head line that names a column "name" or "id", rows find their elements by that, whatever their order;
/// unmatched rows and names that come twice are shown and set nothing. Without a head, cells go onto the rows and
/// columns of the ledger as they are shown, from the current cell on; where the first column repeats the names of those
/// rows it is used to match. A column's unit comes from its head ("Rim (ft)", "size [mm]", "rim ft"), else it is the
/// project's.
namespace culvert {

constexpr std::size_t most_paste_cells = 20'000'000;

struct PasteColumn {
    std::string head;
    int field = -1;           ///< index in the kind's table; -1: ignored
    bool key = false;         ///< finds the element
    double factor = 0;        ///< SI of one; 0: the field's own way (text, choices)
    std::string unit;         ///< symbol that the factor is of
    bool unit_given = false;  ///< by the head, not taken from the project
    NumberStyle style;
    std::size_t odd = 0;  ///< values that are in range but out of scale: the unit may be wrong
};
enum class CellState : std::uint8_t { Ignored, Same, Changes, Bad };
struct PasteRow {
    std::uint64_t id = 0;  ///< element; 0: none
    enum class Fate : std::uint8_t { Matched, Unmatched, Doubled, Empty } fate = Fate::Empty;
    std::string name;  ///< as written in the key column
    int line = 0;      ///< 1-based, in the pasted text
};
struct PasteProblem {
    int line = 0, column = 0;  ///< 1-based, in the pasted text
    std::string message;
};
struct PastePlan {
    bool ok = false;  ///< something can be set
    std::vector<PasteColumn> columns;
    std::vector<PasteRow> rows;  ///< without the head
    Cells cells;                 ///< without the head
    std::vector<std::vector<CellState>> states;
    std::vector<PasteProblem> problems;  ///< the first hundred
    std::size_t bad = 0, changes = 0, matched = 0, unmatched = 0, doubled = 0;
    bool by_place = false;   ///< no key: rows go by their places in the ledger
    bool questions = false;  ///< a column's numbers can be read in two ways
    Edit edit;
    std::string summary;
};

/// Where a paste without a head goes.
struct PastePlace {
    std::vector<std::uint64_t> rows;   ///< elements from the current one on, as shown
    std::vector<std::size_t> columns;  ///< fields from the current one on, as shown
};
/// What a person changed in the plan that was shown: the field, and the unit's factor, of a column.
struct PasteChoice {
    std::size_t column;
    int field = -2;     ///< -2: as guessed, -1: ignored
    double factor = 0;  ///< 0: as guessed
    char decimal = 0;   ///< 0: as guessed
};
PastePlan plan_paste(const Project& project, Kind kind, std::string_view text, const PastePlace& place,
                     const std::vector<PasteChoice>& choices = {});

/// One typed or pasted cell as a value of a field. Empty text is "not given" where the field allows it.
struct CellValue {
    bool ok = false;
    Value value;
    std::string error;
    bool odd = false;  ///< out of range, but not in another unit
};
/// @param factor  SI of one where the text has no unit of its own; 0: the project's unit
CellValue read_cell(const Project& project, Kind kind, std::uint64_t id, std::size_t field, std::string_view text,
                    double factor = 0, const NumberStyle* style = nullptr);
/// A cell as text that `read_cell` reads back: what copying puts on the clipboard.
std::string cell_text(const Project& project, Kind kind, std::uint64_t id, std::size_t field);

}  // namespace culvert
