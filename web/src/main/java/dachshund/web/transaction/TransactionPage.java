package dachshund.web.transaction;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Named;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.AppendingKind;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.TypeChoice;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.reader.QueryProblem;
import dachshund.core.release.WhenCheck;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Execution;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Known;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepNames;
import dachshund.core.transaction.StepSql;
import dachshund.core.transaction.StepWords;
import dachshund.core.transaction.TransactingKind;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import dachshund.core.transaction.Wording;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.engine.transaction.SentAlone;
import dachshund.engine.transaction.TriedOut;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.lineup.LineUps;
import dachshund.office.reach.Reaching;
import dachshund.office.reader.Databases;
import dachshund.office.transaction.Surroundings;
import dachshund.web.page.Shown;
import dachshund.web.query.Calculations;
import dachshund.web.rehearsal.Rehearsing;
import dachshund.web.when.DrivenPage;
import dachshund.web.when.WhenForms;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** What the page of one transaction shows, and how it is edited: each edit posts one change and gets the design back. */
@Component
class TransactionPage implements DrivenPage<TransactionDefinition> {

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final Databases databases;
    private final WhenForms whenForms;
    private final Rehearsing rehearsing;
    private final Shown shown;
    private final Reaching reaching;
    private final PlantClock clock;
    private final Surroundings surroundings;
    private final LineUps lineUps;

    TransactionPage(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            Databases databases,
            WhenForms whenForms,
            Rehearsing rehearsing,
            Shown shown,
            Reaching reaching,
            PlantClock clock,
            Surroundings surroundings,
            LineUps lineUps) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.databases = databases;
        this.whenForms = whenForms;
        this.rehearsing = rehearsing;
        this.shown = shown;
        this.reaching = reaching;
        this.clock = clock;
        this.surroundings = surroundings;
        this.lineUps = lineUps;
    }

    /**
     * A gathered tag as the page shows it.
     *
     * @param now     its value now; empty for what is computed
     * @param what    what is computed; null for a value
     * @param longest how far back that goes
     * @param marker  name of the tag that says when it began
     */
    public record GatherLine(
            int index,
            Gathered gathered,
            String tag,
            String now,
            Calculations.Chosen what,
            String longest,
            String marker,
            List<Calculations.Offer> offers) {}

    @Override
    public Class<TransactionDefinition> type() {
        return TransactionDefinition.class;
    }

    TransactionDefinition transaction(String id) {
        return definitions.find(TransactionDefinition.class, id).orElseThrow();
    }

    /** Databases in which several things can be done at once. */
    List<DestinationDefinition> able() {
        return definitions.all(DestinationDefinition.class).stream()
                .filter(each -> engine.storeKind(each.store()) instanceof TransactingKind)
                .toList();
    }

    private List<SourceDefinition> brokers() {
        return definitions.all(SourceDefinition.class).stream()
                .filter(each -> engine.sources().kind(each.link()).publishes())
                .toList();
    }

    private List<DestinationDefinition> folders() {
        return definitions.all(DestinationDefinition.class).stream()
                .filter(each -> engine.storeKind(each.store()) instanceof AppendingKind)
                .toList();
    }

    /** Transactions that one can be done after. */
    private List<TransactionDefinition> firsts(String id) {
        return definitions.all(TransactionDefinition.class).stream()
                .filter(each -> !each.id().equals(id))
                .toList();
    }

    /** Why nothing is connected to for a try, in a sentence: nobody has decided to connect there yet. */
    Optional<String> notReached(TransactionDefinition design) {
        return java.util.stream.Stream.concat(
                        java.util.stream.Stream.concat(
                                java.util.stream.Stream.of(design.database()),
                                design.newRows().stream().map(When.OnNewRow::database)),
                        design.steps().stream().map(Step::in))
                .flatMap(each -> definitions.find(each).stream())
                .flatMap(each -> reaching.notDecided(each).stream())
                .findFirst();
    }

    String design(String id, Model model) {
        return design(id, model, null, -1);
    }

    /**
     * @param tried what came of a try; null for none
     * @param open  the step whose line is unfolded; -1 for none
     */
    String design(String id, Model model, TriedOut tried, int open) {
        return design(id, model, tried, open, null);
    }

    /** @param sent what became of the unfolded step, which was sent alone; null for none */
    String design(String id, Model model, TriedOut tried, int open, SentAlone sent) {
        model.addAttribute("sent", sent);
        TransactionDefinition design = transaction(id);
        Plant plant = definitions.plant();
        model.addAttribute("transaction", design);
        model.addAttribute("driven", design);
        model.addAttribute("seen", drafts.revision(id));
        model.addAttribute("draft", definitions.draft(id).orElse(null));
        model.addAttribute("live", definitions.live(id).isPresent());
        model.addAttribute("whens", whenForms.forms(design));
        model.addAttribute("gate", whenForms.gate(design));
        model.addAttribute(
                "whenProblems",
                design.whens().isEmpty() ? List.of() : WhenCheck.problems(design, definitions::tag, plant.shifts()));
        model.addAttribute("whenAdvice", List.of());
        rehearsed(OnEquipment.of(design, plant).placed(design), plant, model);
        OnEquipment on = OnEquipment.of(design, plant);
        model.addAttribute("gathers", gathers(on.placed(design), on));
        model.addAttribute("equipment", definitions.all(EquipmentDefinition.class));
        model.addAttribute("properties", properties(design));
        model.addAttribute("bads", Gathered.WhenBad.values());
        model.addAttribute("sinces", Over.Since.values());
        List<TransactionCheck.Problem> problems = TransactionCheck.problems(design, surroundings.now());
        model.addAttribute("steps", steps(on.placed(design), on, problems, tried));
        model.addAttribute(
                "problems",
                problems.stream()
                        .filter(each -> each.step() == TransactionCheck.WHOLE)
                        .map(TransactionCheck.Problem::sentence)
                        .toList());
        model.addAttribute("advice", TransactionCheck.advice(design));
        model.addAttribute("kinds", StepForms.Kind.values());
        model.addAttribute("rows", Step.Rows.values());
        model.addAttribute("able", able());
        model.addAttribute("oldMarks", engine.oldMarks(design));
        model.addAttribute("brokers", brokers());
        model.addAttribute("queries", definitions.all(QueryDefinition.class));
        model.addAttribute("folders", folders());
        model.addAttribute("wordings", Wording.As.values());
        model.addAttribute("firsts", firsts(id));
        model.addAttribute("readable", databases.all());
        model.addAttribute("isolations", Isolation.values());
        model.addAttribute("codeTag", design.answer().code().map(this::name).orElse(""));
        model.addAttribute("textTag", design.answer().text().map(this::name).orElse(""));
        model.addAttribute(
                "original",
                design.follows()
                        .flatMap(follows -> definitions.find(TransactionDefinition.class, follows.original()))
                        .orElse(null));
        model.addAttribute("followers", lineUps.followers(id));
        model.addAttribute("tried", tried);
        model.addAttribute("open", open);
        model.addAttribute("allNames", names(design, tried));
        status(id, model);
        return "transaction/transaction :: design";
    }

    int seen(String id) {
        return drafts.revision(id);
    }

    void status(String id, Model model) {
        model.addAttribute("transaction", transaction(id));
        model.addAttribute("status", engine.transactions().status(id).orElse(null));
    }

    /** When it would have fired in the last minutes: its Whens, rehearsed as those of a recorder of what it gathers. */
    void rehearsed(TransactionDefinition design, Plant plant, Model model) {
        List<Column> columns = new ArrayList<>();
        columns.add(
                Column.of("fired", SqlType.timestamp(3), new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME)));
        design.gathers().stream()
                .filter(each -> each.over().isEmpty())
                .filter(each -> definitions.tag(each.tag()).isPresent())
                .forEach(each -> columns.add(Column.of(
                        Layout.freeName(each.name(), columns),
                        TypeChoice.forKind(
                                definitions.tag(each.tag()).orElseThrow().kind()),
                        new ColumnSource.FromTag(each.tag(), ColumnSource.Aspect.VALUE))));
        RecorderDefinition rows = new RecorderDefinition(
                        design.id(), design.name(), "", design.whens(), new Layout(columns), List.of())
                .withGate(design.gate());
        model.addAttribute("driven", design);
        model.addAttribute("ribbonAt", "firings");
        Rehearsing.View view = rehearsing.view(rows, plant);
        long past = view.ribbon().ticks().stream().filter(tick -> tick.past()).count();
        boolean elsewhere = !design.whens().isEmpty()
                && design.whens().stream().allMatch(when -> when.pace() == When.Pace.ELSEWHERE);
        String firings = elsewhere
                ? "what does not come of tags or the clock is not rehearsed"
                : past == 0
                        ? "it would not have fired in the time shown"
                        : "it would have fired " + shown.count(past, "time") + " in the time shown";
        model.addAttribute("rehearsed", new Rehearsing.View(view.ribbon(), view.rows(), view.since(), firings));
        model.addAttribute("rehearsedNames", columns.stream().map(Column::name).toList());
    }

    /** Names of the properties that its equipment has. */
    private List<String> properties(TransactionDefinition design) {
        return definitions.find(EquipmentDefinition.class, design.equipment()).stream()
                .flatMap(each -> definitions.find(EquipmentClassDefinition.class, each.equipmentClass()).stream())
                .flatMap(each -> each.properties().stream())
                .map(PropertyDesign::name)
                .toList();
    }

    /** @param design with the tags of its equipment in their places */
    private List<GatherLine> gathers(TransactionDefinition design, OnEquipment on) {
        List<GatherLine> lines = new ArrayList<>();
        for (Gathered each : design.gathers()) {
            Optional<Over> over = each.over();
            lines.add(new GatherLine(
                    lines.size(),
                    each,
                    source(each, on),
                    over.isEmpty() ? now(each, on) : "",
                    over.map(of -> Calculations.chosen(of.what())).orElse(null),
                    over.map(of -> PeriodText.write(of.longest())).orElse(""),
                    over.flatMap(Over::marker).map(this::name).orElse("no tag yet"),
                    offers(each.tag())));
        }
        return lines;
    }

    /** Of a text there is little to compute. */
    private List<Calculations.Offer> offers(TagRef tag) {
        boolean text =
                definitions.tag(tag).filter(info -> !info.kind().numeric()).isPresent();
        return Calculations.OFFERS.stream()
                .filter(each -> !text || List.of("start", "end", "count").contains(each.words()))
                .toList();
    }

    private String source(Gathered each, OnEquipment on) {
        return each.isGiven()
                ? "given by whoever asks"
                : each.property().isEmpty()
                        ? name(each.tag())
                        : each.property() + " of " + (on.name().isEmpty() ? "its equipment" : on.name());
    }

    private String now(Gathered each, OnEquipment on) {
        if (!each.property().isEmpty()) {
            TagValue value = on.value(each, tag -> engine.tags().entry(tag).value(), clock.now());
            return value.quality().isBad()
                    ? value.quality().words()
                    : value.value().map(Values::words).orElse("");
        }
        return definitions
                .tag(each.tag())
                .map(info -> shown.value(engine.tags().entry(each.tag()).value(), info))
                .orElse("");
    }

    String name(TagRef tag) {
        return definitions.tag(tag).map(TagInfo::fullName).orElse(tag.isGap() ? "no tag yet" : "a tag that is gone");
    }

    private Named named() {
        Map<String, Definition> all =
                definitions.drafted().stream().collect(Collectors.toMap(Definition::id, each -> each));
        return new Named(all, all);
    }

    private List<StepLine> steps(
            TransactionDefinition design, OnEquipment on, List<TransactionCheck.Problem> problems, TriedOut tried) {
        Named named = named();
        List<StepLine> lines = new ArrayList<>();
        for (int i = 0; i < design.steps().size(); i++) {
            Step step = design.steps().get(i);
            int index = i;
            Set<String> asked = parameters(step).map(QueryParameter::name).collect(Collectors.toSet());
            Set<String> spoken = new LinkedHashSet<>(StepNames.of(step));
            spoken.addAll(asked);
            List<String> names = names(design, tried, i);
            String sql = "";
            Map<String, String> carries = new LinkedHashMap<>();
            if (step instanceof Step.LookUp lookUp && lookUp.isSaved()) {
                parameters(lookUp)
                        .forEach(each -> carries.put(
                                each.name(), carries(each.name(), design, on).orElse("what is called so")));
            }
            try {
                StepSql of = StepSql.of(step, surroundings.dialect(design.changed(step)));
                sql = of.text().written();
                for (String name : of.text().names()) {
                    carries(of.formula(name), design, on).ifPresent(value -> carries.put(name, value));
                }
            } catch (QueryProblem none) {
                sql = "";
            }
            lines.add(new StepLine(
                    i,
                    step,
                    StepForms.Kind.of(step).name(),
                    StepWords.deed(step, named),
                    problems.stream()
                            .filter(each -> each.step() == index)
                            .map(TransactionCheck.Problem::sentence)
                            .toList(),
                    sql,
                    carries,
                    step instanceof Step.WriteTag write ? name(write.tag()) : "",
                    names,
                    spoken.stream()
                            .filter(word -> asked.contains(word)
                                    || isName(word, names, design.steps().subList(0, index)))
                            .collect(Collectors.toMap(
                                    word -> word, word -> isGathered(word, design), (a, b) -> a, LinkedHashMap::new)),
                    tried == null ? null : tried.step(step.name()).orElse(null)));
        }
        return lines;
    }

    /** Those of the saved query that it asks; none where it asks none. */
    private Stream<QueryParameter> parameters(Step step) {
        return step instanceof Step.LookUp lookUp && lookUp.isSaved()
                ? definitions.find(QueryDefinition.class, lookUp.query()).stream()
                        .flatMap(query -> query.parameters().stream())
                : Stream.empty();
    }

    /** Whether a word is a name of something: columns of a look-up are not known before it was tried. */
    private static boolean isName(String word, List<String> names, List<Step> before) {
        return !Known.ALL.contains(word.toLowerCase(Locale.ROOT))
                && (names.stream().anyMatch(word::equalsIgnoreCase)
                        || before.stream()
                                .anyMatch(step -> step.givesColumns()
                                        && word.toLowerCase(Locale.ROOT)
                                                .startsWith(step.name().toLowerCase(Locale.ROOT) + "_")));
    }

    private static boolean isGathered(String word, TransactionDefinition design) {
        return design.gathers().stream()
                .anyMatch(each ->
                        each.over().isEmpty() && !each.isGiven() && each.name().equalsIgnoreCase(word));
    }

    /** What a formula would be now, where it is the name of a gathered tag. */
    private Optional<String> carries(String formula, TransactionDefinition design, OnEquipment on) {
        if (formula.equalsIgnoreCase(Known.EQUIPMENT)) {
            return Optional.of(on.name());
        }
        return design.gathers().stream()
                .filter(each -> each.over().isEmpty() && each.name().equalsIgnoreCase(formula))
                .findFirst()
                .map(each -> now(each, on));
    }

    private List<String> names(TransactionDefinition design, TriedOut tried) {
        return names(design, tried, design.steps().size());
    }

    /** Columns of a look-up are known once it was tried, and what one that it follows gives once that was done. */
    private List<String> names(TransactionDefinition design, TriedOut tried, int before) {
        Set<String> all = new LinkedHashSet<>(design.namesBefore(before));
        design.after().stream()
                .flatMap(first -> definitions.find(TransactionDefinition.class, first).stream())
                .flatMap(first -> first.namesBefore(first.steps().size()).stream())
                .forEach(name -> all.add(When.AfterTransaction.PREFIX + name));
        all.addAll(engine.transactions().lastOfFirst(design).keySet());
        if (tried != null) {
            design.steps().subList(0, before).stream()
                    .flatMap(step -> tried.step(step.name()).stream())
                    .flatMap(step -> step.values().keySet().stream())
                    .filter(name -> name.startsWith(Execution.GIVES))
                    .forEach(name -> all.add(name.substring(Execution.GIVES.length())));
        }
        return List.copyOf(all);
    }

    @Override
    public String change(String id, int seen, String by, Model model, UnaryOperator<TransactionDefinition> change) {
        return change(id, seen, by, model, -1, change);
    }

    /** @param open the step whose line is unfolded then */
    String change(String id, int seen, String by, Model model, int open, UnaryOperator<TransactionDefinition> change) {
        drafts.edit(TransactionDefinition.class, id, seen, by, change);
        return design(id, model, null, open);
    }

    @Override
    public String refuse(String id, Model model, String field, String problem, String typed) {
        model.addAttribute("problemField", field);
        model.addAttribute("problem", problem);
        model.addAttribute("typed", typed);
        return design(id, model, null, field.startsWith("step") ? Integer.parseInt(field.substring(4)) : -1);
    }

    /** The same, with all that was typed, which stays. */
    String refuse(String id, Model model, String field, String problem, Map<String, String> form) {
        model.addAttribute("form", form);
        return refuse(id, model, field, problem, "");
    }

    /** The columns of a table that what is known here can fill, and those that demand a value. */
    Optional<List<Step.Cell>> cells(TransactionDefinition design, int step)
            throws dachshund.core.destination.StoreProblem {
        if (!(design.steps().get(step) instanceof Step.Put put) || put.table().isBlank()) {
            return Optional.empty();
        }
        String[] parts = put.table().split("\\.", 2);
        dachshund.core.reader.TableName table = parts.length == 2
                ? new dachshund.core.reader.TableName(parts[0], parts[1])
                : new dachshund.core.reader.TableName("", parts[0]);
        List<String> names = design.namesBefore(step);
        return databases.tables(design.changed(put)).describe(table).map(shape -> {
            Set<String> key = shape.keys().stream()
                    .filter(each -> each.primary())
                    .flatMap(each -> each.columns().stream())
                    .collect(Collectors.toSet());
            List<Step.Cell> cells = new ArrayList<>(put.cells());
            shape.columns().stream()
                    .filter(column -> put.cell(column.name()).isEmpty())
                    .forEach(column -> {
                        Optional<String> agrees = names.stream()
                                .filter(name -> name.equalsIgnoreCase(column.name())
                                        || name.toLowerCase(java.util.Locale.ROOT)
                                                .endsWith("_" + column.name().toLowerCase(java.util.Locale.ROOT)))
                                .findFirst();
                        boolean isKey = key.contains(column.name()) && put.deed() != Step.Deed.INSERT;
                        if (agrees.isPresent() || isKey || put.deed() == Step.Deed.INSERT && !column.nullable()) {
                            cells.add(new Step.Cell(column.name(), agrees.orElse(""), isKey));
                        }
                    });
            return cells;
        });
    }
}
