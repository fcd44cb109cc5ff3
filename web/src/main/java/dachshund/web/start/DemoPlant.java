package dachshund.web.start;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.keep.Density;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Releases;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.office.own.DachshundSettings;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** The demo's content: the pellet works as a source, a records database, and a few recorders that tell its story. */
@Component
class DemoPlant {

    private static final Logger LOG = LoggerFactory.getLogger(DemoPlant.class);
    private static final String DATABASE = "quillmoor_records";
    private static final String USER = "quillmoor";
    private static final String PASSWORD = "quillmoor-demo";
    private static final String BY = "demo";

    private final DachshundSettings settings;
    private final Definitions definitions;
    private final Releases releases;
    private final Drafts drafts;
    private final DemoSources sources;
    private final Filings filings;
    private final Engine engine;

    DemoPlant(
            DachshundSettings settings,
            Definitions definitions,
            Releases releases,
            Drafts drafts,
            DemoSources sources,
            Filings filings,
            Engine engine) {
        this.settings = settings;
        this.definitions = definitions;
        this.releases = releases;
        this.drafts = drafts;
        this.sources = sources;
        this.filings = filings;
        this.engine = engine;
    }

    /** @return false where the plant does not answer yet, and nothing was made */
    boolean make() {
        SourceDefinition source;
        try {
            source = sources.pelletWorks();
        } catch (LinkProblem plantAway) {
            LOG.warn(
                    "The demo plant does not answer, so there is no demo content yet; it is asked again: {}",
                    plantAway.getMessage());
            return false;
        }
        Optional<SourceDefinition> meters = sources.meters();
        SourceDefinition kept = sources.kept();
        meters.ifPresent(each -> drafts.edit(each, 0, BY));
        meters.ifPresent(each -> filings.file(each.id(), new Filed("Energy", List.of())));
        Optional<SourceDefinition> silos = sources.silos();
        silos.ifPresent(each -> {
            drafts.edit(each, 0, BY);
            drafts.switchWriting(each.id(), each.writing(), BY);
        });
        drafts.edit(kept, 0, BY);
        DestinationDefinition records = new DestinationDefinition(
                Definitions.newId(),
                "Production",
                "Production records of the pellet works",
                "mariadb",
                DemoQuestions.onItsServer(settings.database(), DATABASE, USER, PASSWORD));
        drafts.edit(source, 0, BY);
        drafts.switchWriting(source.id(), source.writing(), BY);
        drafts.edit(sources.formulas(source, meters, kept), 0, BY);
        lines(source);
        drafts.edit(records, 0, BY);
        new DemoQuestions(drafts, settings.database(), BY).make(records, source, meters);
        drafts.edit(
                new KeepingRuleDefinition(
                        Definitions.newId(),
                        "Whole plant",
                        "Every tag of the pellet works, on change",
                        Selection.source(source.id()),
                        Density.CHANGES,
                        400,
                        0),
                0,
                BY);
        meters.ifPresent(each -> drafts.edit(
                new KeepingRuleDefinition(
                        Definitions.newId(),
                        "Energy",
                        "The meters, each 10 s",
                        Selection.source(each.id()),
                        Density.every(Duration.ofSeconds(10)),
                        1100,
                        0),
                0,
                BY));
        silos.ifPresent(each -> drafts.edit(
                new KeepingRuleDefinition(
                        Definitions.newId(),
                        "Silo sensors",
                        "Levels by half a percent of their range",
                        Selection.source(each.id()),
                        new Density(Optional.empty(), 0.5, true),
                        400,
                        0),
                0,
                BY));
        new DemoRecorders(definitions, drafts, source, meters, records, BY).make();
        new DemoTransactions(definitions, drafts, engine, source, meters, records, BY).make();
        releases.releaseAll(releases.fingerprint(), BY);
        return true;
    }

    /** The pellet lines as equipment, as a person would make them from what looks alike. */
    private void lines(SourceDefinition source) {
        Alike.Group group = Alike.groups(source.tags().stream()
                        .map(tag -> new Alike.Placed(new TagRef(source.id(), tag.address()), tag))
                        .toList())
                .stream()
                .filter(each -> each.machines().get(0).name().equals("PL1"))
                .findFirst()
                .orElseThrow();
        List<String> wanted = List.of(
                "State",
                "Lot ID",
                "Pellet output",
                "Main motor power",
                "Die temperature",
                "Pellets made",
                "Running hours");
        EquipmentClassDefinition type = new EquipmentClassDefinition(
                Definitions.newId(),
                "Pellet line",
                "A press with its conditioner",
                wanted.stream()
                        .map(name -> {
                            TagInfo tag =
                                    group.machines().get(0).tags().get(name).info();
                            return new PropertyDesign(name, tag.kind(), tag.unit(), true, tag.description());
                        })
                        .toList());
        drafts.edit(type, 0, BY);
        for (Alike.Machine machine : group.machines()) {
            drafts.edit(
                    new EquipmentDefinition(
                            Definitions.newId(),
                            machine.name(),
                            "",
                            type.id(),
                            machine.location(),
                            wanted.stream()
                                    .collect(Collectors.toMap(
                                            name -> name,
                                            name -> PropertySource.FromTag.of(
                                                    machine.tags().get(name).ref())))),
                    0,
                    BY);
        }
    }
}
