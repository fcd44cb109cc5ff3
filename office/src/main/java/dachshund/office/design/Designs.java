package dachshund.office.design;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.source.SourceRun;
import dachshund.office.definition.DefinitionTables;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Draft;
import dachshund.office.definition.Releases;
import dachshund.office.filing.Filings;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Everything that is designed, each with how it stands and who changed it last. */
@Component
public class Designs {

    private final Definitions definitions;
    private final Releases releases;
    private final Engine engine;
    private final Filings filings;

    private volatile Formulas formulas = new Formulas(-1, List.of(), Map.of());

    /** @param users formula tags by what they are made of */
    private record Formulas(long version, List<ListedFormula> all, Map<TagRef, List<ListedFormula>> users) {}

    private record Stands(String words, String shape, String sentence) {}

    private static final Stands NOT_LIVE = new Stands("Draft only", "DRAFT", "It is not released yet.");
    private static final Stands NOTHING = new Stands("", "", "");

    Designs(Definitions definitions, Releases releases, Engine engine, Filings filings) {
        this.definitions = definitions;
        this.releases = releases;
        this.engine = engine;
        this.filings = filings;
    }

    public List<Design> all() {
        Map<String, Draft> drafts =
                definitions.drafts().stream().collect(Collectors.toMap(Draft::id, Function.identity()));
        Map<String, Stands> stands = stands();
        return Stream.concat(
                        definitions.drafted().stream()
                                .map(each -> design(
                                        each, Optional.ofNullable(drafts.get(each.id())), stands.get(each.id()))),
                        formulas().stream()
                                .map(each -> formula(
                                        each,
                                        Optional.ofNullable(
                                                drafts.get(each.source().id())))))
                .toList();
    }

    public Design of(Definition thing) {
        return thing instanceof ListedFormula formula
                ? formula(formula, definitions.draft(formula.source().id()))
                : design(thing, definitions.draft(thing.id()), stands().get(thing.id()));
    }

    /** The thing as drafted, else as live: whatever the list shows. */
    public Optional<Definition> find(String id) {
        return definitions.find(id).or(() -> formulas().stream()
                .filter(each -> each.id().equals(id))
                .<Definition>map(each -> each)
                .findFirst());
    }

    /** The formula tags of all sources, as drafted. */
    public List<ListedFormula> formulas() {
        return known().all();
    }

    /** Formula tags that are made of a tag. */
    List<ListedFormula> madeOf(TagRef tag) {
        return known().users().getOrDefault(tag, List.of());
    }

    private Formulas known() {
        long version = definitions.version();
        Formulas known = formulas;
        if (known.version() != version) {
            List<ListedFormula> all = definitions.all(SourceDefinition.class).stream()
                    .filter(source -> source.link().equals(FormulaTag.LINK))
                    .flatMap(source -> source.tags().stream().map(tag -> ListedFormula.of(source, tag)))
                    .toList();
            Map<TagRef, List<ListedFormula>> users = new HashMap<>();
            all.forEach(each -> each.kind().tagsOf(each).forEach(tag -> users.computeIfAbsent(
                            tag, made -> new ArrayList<>())
                    .add(each)));
            known = new Formulas(version, all, users);
            formulas = known;
        }
        return known;
    }

    /** Who changed it last is who changed its source, which is edited as one. */
    private Design formula(ListedFormula formula, Optional<Draft> draft) {
        Optional<TagInfo> live = definitions
                .live(formula.source().id())
                .map(SourceDefinition.class::cast)
                .flatMap(source -> source.tag(formula.tag().address()));
        boolean drafted = !live.equals(Optional.of(formula.tag()));
        Stands stands = live.isEmpty()
                ? NOT_LIVE
                : stands(engine.tags().entry(formula.ref()).value().quality());
        Optional<DefinitionTables.By> released =
                releases.released(formula.source().id());
        Optional<Draft> own = draft.filter(each -> drafted);
        return new Design(
                formula,
                stands.words(),
                stands.shape(),
                stands.sentence(),
                own.map(Draft::by)
                        .or(() -> released.map(DefinitionTables.By::who))
                        .orElse(""),
                own.map(Draft::at)
                        .or(() -> released.map(DefinitionTables.By::at))
                        .orElse(Instant.EPOCH),
                filings.of(formula.id()),
                drafted);
    }

    private static Stands stands(Quality quality) {
        return switch (quality.grade()) {
            case GOOD -> new Stands("Good", "CONNECTED", "");
            case UNCERTAIN -> new Stands("Uncertain", "HOLDING", quality.sentence());
            case BAD -> new Stands("Bad", "FAULTED", quality.sentence());
        };
    }

    private Design design(Definition thing, Optional<Draft> draft, Stands stands) {
        Optional<DefinitionTables.By> released = releases.released(thing.id());
        String refused = engine.refused(thing.id());
        Stands state = !refused.isEmpty()
                ? new Stands("Refused", "FAULTED", refused)
                : stands != null ? stands : definitions.live(thing.id()).isEmpty() ? NOT_LIVE : NOTHING;
        return new Design(
                thing,
                state.words(),
                state.shape(),
                state.sentence(),
                draft.map(Draft::by)
                        .or(() -> released.map(DefinitionTables.By::who))
                        .orElse(""),
                draft.map(Draft::at)
                        .or(() -> released.map(DefinitionTables.By::at))
                        .orElse(Instant.EPOCH),
                filings.of(thing.id()),
                draft.isPresent());
    }

    /** Of those that do something. */
    private Map<String, Stands> stands() {
        Map<String, Stands> stands = new HashMap<>();
        engine.sources().all().forEach(run -> {
            SourceRun.Status status = run.status();
            stands.put(
                    run.definition().id(),
                    new Stands(status.state().words(), status.state().name(), status.sentence()));
        });
        for (Map.Entry<String, RecorderStatus> each : engine.status().entrySet()) {
            RecorderStatus status = each.getValue();
            stands.put(
                    each.getKey(),
                    new Stands(status.state().words(), status.state().name(), status.sentence()));
        }
        engine.lanes().stream()
                .filter(lane -> lane.state() == LaneState.HOLDING || lane.state() == LaneState.FAULTED)
                .forEach(lane -> stands.merge(lane.destination(), stands(lane), Designs::graver));
        return stands;
    }

    private static Stands stands(LaneStatus lane) {
        return new Stands(lane.state().words(), lane.state().name(), lane.sentence());
    }

    /** A destination stands as the worst of its lanes that hold rows. */
    private static Stands graver(Stands one, Stands other) {
        return one.shape().equals(LaneState.FAULTED.name()) ? one : other;
    }
}
