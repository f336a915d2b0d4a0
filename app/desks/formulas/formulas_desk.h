#pragma once

#include <map>
#include <optional>

#include "app/desks/formulas/preview.h"
#include "app/workspace/desk.h"
#include "core/formula/book.h"

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QSpinBox;
class QTreeWidget;
class QTreeWidgetItem;

namespace rendak::app {

class FormulaEdit;
class NamePicker;
class PreviewPlot;

/// Math channels: the sets and their formulas on the left, the formula with its result on the picked lap in the middle,
/// names to put into it on the right. What is typed is a draft until it is saved; drafts survive a look elsewhere.
class FormulasDesk : public Desk {
    Q_OBJECT
  public:
    explicit FormulasDesk(Workspace& workspace, QWidget* parent = nullptr);

    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    /// Shows a formula of a set; an empty set: the one that counts.
    void show_formula(const QString& name, const QString& set = {});

    // What tests and pictures ask.
    [[nodiscard]] FormulaEdit& editor() { return *text_; }
    [[nodiscard]] PreviewPlot& preview() { return *preview_; }
    [[nodiscard]] NamePicker& names() { return *names_; }
    [[nodiscard]] QTreeWidget& list() { return *list_; }
    [[nodiscard]] QString message() const;
    [[nodiscard]] QString figures() const;
    [[nodiscard]] QString shown_set() const { return QString::fromStdString(set_); }
    [[nodiscard]] formula::Formula draft() const;

    void new_formula();
    void copy_to_own_set();
    /// False when the formula is not right or could not be written: then the draft stays.
    bool save();
    void revert();
    void remove_formula();
    /// Adds a pasted formula ("name in unit = …") to the own set as a draft.
    [[nodiscard]] Result<void> paste(const QString& text);
    void new_set();
    void remove_set();
    void show_history();
    /// Lets the user choose what comes in.
    void import_set(const QString& file);
    [[nodiscard]] Result<void> export_set(const QString& file) const;
    void measure_at_rest();

    /// Drafts that are not saved: a question before they go. Answered by `ask_about_drafts`, in tests by something
    /// else.
    [[nodiscard]] bool may_close() override;
    enum class Answer { save, discard, stay };
    std::function<Answer(const QStringList& names)> ask_about_drafts;

  private:
    using Key = std::pair<std::string, std::string>;  ///< set, formula

    QWidget* build_list(QWidget* parent);
    QWidget* build_editor(QWidget* parent);
    void read_sets();
    void fill_list();
    void fill_names();
    void select(const Key& key);
    void load_draft();
    void draft_edited();
    void start_preview();
    void show_preview(FormulaPreview preview);
    [[nodiscard]] const formula::FormulaSet* find_set(const std::string& name) const;
    [[nodiscard]] std::optional<formula::Formula> saved(const Key& key) const;
    [[nodiscard]] bool is_read_only() const;
    /// The set that new formulas go into: the one shown, or "My formulas" when that is the shipped one.
    [[nodiscard]] formula::FormulaSet own_set() const;
    bool save_set(const formula::FormulaSet& set, const QString& what);
    void open_draft(formula::Formula formula, const std::string& set);

    std::vector<formula::FormulaSet> sets_;   ///< the shipped one first
    std::map<Key, formula::Formula> drafts_;  ///< edited and not saved
    std::string set_, name_;                  ///< shown; name_ is the saved name, or that of a new draft
    bool filling_ = false;
    bool stale_ = false;
    Latest previewing_;

    QLineEdit* find_;
    QTreeWidget* list_;
    QLineEdit *formula_name_, *unit_, *comment_;
    FormulaEdit* text_;
    QLabel *title_, *message_, *uses_, *figures_;
    QSpinBox* decimals_;
    QLineEdit *low_, *high_;
    QDoubleSpinBox* rate_;
    QPushButton *save_, *revert_, *copy_, *remove_, *compare_;
    PreviewPlot* preview_;
    NamePicker* names_;
};

}  // namespace rendak::app
