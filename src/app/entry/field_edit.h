// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QWidget>

#include "app/desk/document.h"

namespace culvert::app {

/// One field of a row: knows its quantity, takes units and sums, shows what it understood, asks when the scale is off.
/// What was typed stays until it is understood or Esc is pressed. Each accepted value is one Edit.
class FieldEdit : public QWidget {
    Q_OBJECT
  public:
    FieldEdit(Document& document, Kind kind, std::uint64_t id, std::string_view key, QWidget* parent = nullptr);
    /// For a row that does not stand yet: `make` turns the typed value into the Edit that makes it.
    void set_maker(std::function<Edit(Value)> make) { make_ = std::move(make); }
    /// Words in place of the field's own: "in 10 years".
    void set_label(const QString& words) { label_->setText(words); }
    void refresh();
    [[nodiscard]] QLineEdit* line() const { return line_; }
    /// What the field offers in its list; empty: it has none.
    [[nodiscard]] QStringList offered() const;
    [[nodiscard]] QComboBox* combo() const { return combo_; }
    /// Goes back to where the value would come from; hidden where there is no way back.
    [[nodiscard]] QToolButton* back() const { return back_; }
    [[nodiscard]] QString said() const { return note_->isVisibleTo(this) ? note_->text() : QString(); }
    [[nodiscard]] const FieldInfo& info() const { return *info_; }
    /// Takes what is typed, as Enter does.
    void accept();
    void accept_list(const QString& typed);

  private:
    void offer();
    [[nodiscard]] Value value() const;
    [[nodiscard]] Origin origin() const;
    void put(Value value);
    void go_back();
    [[nodiscard]] double ground() const;
    void say(const QString& text, bool wrong);
    bool eventFilter(QObject* watched, QEvent* event) override;
    [[nodiscard]] Quantity quantity() const;

    Document& document_;
    Kind kind_;
    std::uint64_t id_;
    std::size_t field_;
    const FieldInfo* info_;
    QLabel *note_, *label_ = nullptr;
    QLineEdit* line_ = nullptr;
    QComboBox* combo_ = nullptr;
    QToolButton* back_ = nullptr;
    QString shown_, asked_;  ///< what stands in the line; the text that a question was asked about
    std::function<Edit(Value)> make_;
};

}  // namespace culvert::app
