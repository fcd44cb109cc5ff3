package dachshund.web.records;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Shape;
import dachshund.core.release.LayoutCheck.Remark;
import dachshund.core.release.WhenCheck;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Confirmation;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.lineup.LineUps;
import dachshund.web.rehearsal.Rehearsing;
import dachshund.web.row.LongRow;
import dachshund.web.when.DrivenPage;
import dachshund.web.when.WhenForms;
import dachshund.web.where.WhereCard;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/**
 * What the pages of one recorder have in common: every edit posts one change with the revision it was made on and gets the
 * design back as it then stands; a change that is not understood gets the design back unchanged with a sentence at its place.
 */
@Component
class RecorderPage implements DrivenPage<RecorderDefinition> {

    private static final Dialect USUAL_DIALECT = new StandardDialect();

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final LongRow longRow;
    private final WhereCard.Maker whereCards;
    private final WhenForms whenForms;
    private final Rehearsing rehearsing;
    private final LineUps lineUps;

    RecorderPage(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            LongRow longRow,
            WhereCard.Maker whereCards,
            WhenForms whenForms,
            Rehearsing rehearsing,
            LineUps lineUps) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.longRow = longRow;
        this.whereCards = whereCards;
        this.whenForms = whenForms;
        this.rehearsing = rehearsing;
        this.lineUps = lineUps;
    }

    RecorderDefinition recorder(String id) {
        return definitions.find(RecorderDefinition.class, id).orElseThrow();
    }

    /** What columns and equipment are known by, as drafted. */
    Plant plant() {
        return definitions.plant();
    }

    Dialect dialect(RecorderDefinition recorder) {
        return recorder.wheres().stream()
                .findFirst()
                .flatMap(where -> definitions.destination(where.destination()))
                .map(destination -> engine.storeKind(destination.store()).dialect())
                .orElse(USUAL_DIALECT);
    }

    int seen(String id) {
        return drafts.revision(id);
    }

    /** Fills the model with everything the design shows. */
    String design(String id, Model model) {
        RecorderDefinition recorder = recorder(id);
        Plant plant = plant();
        List<Remark> remarks = longRow.remarks(recorder, dialect(recorder), plant);
        model.addAttribute("recorder", recorder);
        model.addAttribute("driven", recorder);
        model.addAttribute("seen", seen(id));
        model.addAttribute("draft", definitions.draft(id).orElse(null));
        model.addAttribute("live", definitions.live(id).isPresent());
        model.addAttribute("whens", whenForms.forms(recorder));
        model.addAttribute("gate", whenForms.gate(recorder));
        model.addAttribute("whenProblems", WhenCheck.problems(recorder, definitions::tag, plant.shifts()));
        model.addAttribute("whenAdvice", WhenCheck.advice(recorder, definitions::tag));
        model.addAttribute("cells", longRow.cells(recorder, remarks));
        model.addAttribute("fields", longRow.fields(recorder));
        model.addAttribute("shapes", Shape.values());
        model.addAttribute(
                "remarks",
                remarks.stream()
                        .filter(remark -> remark.column() < 0)
                        .map(Remark::sentence)
                        .toList());
        model.addAttribute("wheres", whereCards.cards(recorder));
        model.addAttribute("confirmations", Confirmation.Of.values());
        model.addAttribute("unconfirmed", WhenCheck.unconfirmed(recorder, definitions::tag));
        model.addAttribute("codeTag", name(recorder.confirms().flatMap(Confirmation::code)));
        model.addAttribute("textTag", name(recorder.confirms().flatMap(Confirmation::text)));
        model.addAttribute(
                "otherDestinations",
                definitions.all(DestinationDefinition.class).stream()
                        .filter(destination -> recorder.wheres().stream()
                                .noneMatch(where -> where.destination().equals(destination.id())))
                        .toList());
        model.addAttribute("zone", engine.zone().getId());
        model.addAttribute("offers", ColumnSource.offers(recorder.layout().shape(), properties(recorder)));
        model.addAttribute("equipment", definitions.all(EquipmentDefinition.class));
        model.addAttribute(
                "numericColumns",
                recorder.layout().columns().stream()
                        .filter(column -> column.type().numeric() && !column.isAutoNumber())
                        .map(Column::name)
                        .toList());
        model.addAttribute(
                "original",
                recorder.follows()
                        .flatMap(follows -> definitions.find(RecorderDefinition.class, follows.original()))
                        .orElse(null));
        model.addAttribute("followers", lineUps.followers(id));
        now(recorder, model);
        model.addAttribute("rehearsed", rehearsing.view(recorder, plant));
        status(id, model);
        return "records/recorder :: design";
    }

    private String name(Optional<TagRef> tag) {
        return tag.map(each -> definitions.tag(each).map(TagInfo::fullName).orElse(each.address()))
                .orElse("");
    }

    boolean writesFiles(RecorderDefinition recorder) {
        return recorder.wheres().stream()
                .flatMap(where -> definitions.destination(where.destination()).stream())
                .anyMatch(destination -> engine.storeKind(destination.store()).files());
    }

    /** Properties that columns can be made of: those of its equipment, else of every class. */
    List<String> properties(RecorderDefinition recorder) {
        Optional<EquipmentDefinition> own = definitions.find(EquipmentDefinition.class, recorder.equipment());
        return own.flatMap(each -> definitions.find(EquipmentClassDefinition.class, each.equipmentClass())).stream()
                .flatMap(type -> type.properties().stream())
                .map(property -> property.name())
                .toList();
    }

    void now(RecorderDefinition recorder, Model model) {
        model.addAttribute("nows", longRow.nows(recorder, plant()));
        model.addAttribute("recorder", recorder);
    }

    void status(String id, Model model) {
        model.addAttribute(
                "status", Optional.ofNullable(engine.status().get(id)).orElse(null));
        model.addAttribute(
                "skippedLastHour",
                engine.book().hour(id, engine.clock().now()).stream()
                        .mapToLong(minute -> minute.skipped())
                        .sum());
        model.addAttribute("recorder", recorder(id));
    }

    @Override
    public Class<RecorderDefinition> type() {
        return RecorderDefinition.class;
    }

    @Override
    public String change(String id, int seen, String by, Model model, UnaryOperator<RecorderDefinition> change) {
        drafts.edit(RecorderDefinition.class, id, seen, by, change);
        return design(id, model);
    }

    @Override
    public String refuse(String id, Model model, String field, String problem, String typed) {
        model.addAttribute("problemField", field);
        model.addAttribute("problem", problem);
        model.addAttribute("typed", typed);
        return design(id, model);
    }
}
