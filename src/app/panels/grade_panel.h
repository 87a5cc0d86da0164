// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <map>

#include "app/desk/document.h"
#include "core/design/grading.h"

namespace culvert::app {

/// The drawer's page that grades a run: pins, ties, drops and slopes are typed beside what they lead to, and every new
/// level is shown in plan and profile before it is taken. What is dragged in the profile meanwhile becomes a pin.
class GradePanel : public QWidget {
    Q_OBJECT
  public:
    explicit GradePanel(Document& document, QWidget* parent = nullptr);
    /// Takes a run up; its ends hold until they are freed. Says what is wrong where these make no run.
    bool begin(const std::vector<ElementRef>& elements);
    [[nodiscard]] bool active() const { return isVisible() && !run_.empty(); }
    [[nodiscard]] bool shows(PipeId pipe) const;
    /// An end of a pipe of the run at a level, dragged: a pin. False where it is no part of the run.
    bool drag(PipeId pipe, bool start, double level);
    [[nodiscard]] QTableWidget* table() const { return table_; }
    [[nodiscard]] QComboBox* matching() const { return matching_; }
    [[nodiscard]] QLineEdit* every() const { return every_; }
    [[nodiscard]] QString said() const { return said_->text(); }
    [[nodiscard]] const Graded& graded() const { return graded_; }
    enum Column { Name, Rim, Arriving, PinArriving, Drop, Leaving, PinLeaving, Slope, PinSlope, Columns };
    void clear_pins();

  signals:
    void preview_wanted(const QString& what, culvert::Edit edit);
    void nothing_to_preview();

  private:
    struct Pins {
        QString arriving, leaving, drop, slope;
    };
    void regrade();
    void show_places();
    void say(const QString& wrong);
    void take_cell(int row, int column);
    [[nodiscard]] std::optional<RunAsk> asked(QString& error) const;
    [[nodiscard]] QString* pin_of(int row, int column);

    Document& document_;
    QComboBox* matching_;
    QLineEdit* every_;
    QLabel *title_, *said_;
    QPushButton* free_;
    QTableWidget* table_;
    std::vector<PipeId> run_;
    std::vector<StructureId> places_;
    std::map<std::uint64_t, Pins> pins_;  ///< by structure, as typed
    Graded graded_;
    bool filling_ = false, grading_ = false;
};

}  // namespace culvert::app
