package dachshund.web.notice;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.notice.Matter;
import dachshund.core.notice.Sort;
import dachshund.core.source.LinkState;
import dachshund.engine.Engine;
import dachshund.engine.destination.OldRows;
import dachshund.engine.lane.LaneState;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.source.SourceRun;
import dachshund.engine.transaction.OldMarks;
import dachshund.links.opcua.OpcUaTrust;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.web.certificate.Authorities;
import dachshund.web.tls.PagesTls;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** What needs somebody, as each part of the application knows it. */
@Component
class Matters {

    /** Its name in the local store: when the application was known to run last. */
    private static final String ALIVE = "alive";

    private static final Duration ALIVE_EACH = Duration.ofSeconds(30);
    /** A restart takes less. */
    private static final Duration WAS_DOWN = Duration.ofMinutes(2);

    private static final Duration DOWN_STANDS = Duration.ofMinutes(10);
    private static final Duration SOON = Duration.ofDays(30);
    private static final Duration LOOK_AT_CERTIFICATES = Duration.ofHours(1);
    /** Below, the journal's own bound is near. */
    private static final long LOW_DISK = 2L << 30;

    private final Engine engine;
    private final Definitions definitions;
    private final Filings filings;
    private final OpcUaTrust trust;
    private final PagesTls tls;
    private final Authorities authorities;
    private final Audit audit;
    private final Instant started;
    private final Optional<Instant> aliveBefore;

    /** When rows of a recorder began to be set aside, as far as this process knows. */
    private final Map<String, Instant> asideSince = new ConcurrentHashMap<>();

    /** When triggers were seen first that wait for what is not released, by this process. */
    private final Map<String, Instant> waitingSince = new ConcurrentHashMap<>();

    private long aliveAt = Long.MIN_VALUE;
    private long certificatesAt = Long.MIN_VALUE;
    private List<Matter> certificates = List.of();

    Matters(
            Engine engine,
            Definitions definitions,
            Filings filings,
            OpcUaTrust trust,
            PagesTls tls,
            Authorities authorities,
            Audit audit) {
        this.authorities = authorities;
        this.engine = engine;
        this.definitions = definitions;
        this.filings = filings;
        this.trust = trust;
        this.tls = tls;
        this.audit = audit;
        this.started = engine.clock().now();
        this.aliveBefore = engine.local().remembered(ALIVE).map(Instant::parse);
    }

    /** Each looks by itself, so that what fails in one hides nothing of the others. */
    List<Supplier<List<Matter>>> all() {
        return List.of(
                this::held,
                this::faulted,
                this::stopped,
                this::transactions,
                this::aside,
                this::waiting,
                this::oldRows,
                this::oldMarks,
                this::clock,
                this::silent,
                this::certificates,
                this::disk,
                this::down,
                this::audit);
    }

    private List<Matter> held() {
        Map<String, List<LaneStatus>> byDestination = engine.lanes().stream()
                .filter(lane -> lane.state() == LaneState.HOLDING && lane.held() > 0)
                .collect(Collectors.groupingBy(LaneStatus::destination));
        return byDestination.entrySet().stream()
                .map(each -> {
                    LaneStatus oldest = each.getValue().stream()
                            .min(Comparator.comparing(LaneStatus::since))
                            .orElseThrow();
                    long rows =
                            each.getValue().stream().mapToLong(LaneStatus::held).sum();
                    int recorders = each.getValue().size();
                    return matter(
                            "held " + each.getKey(),
                            Sort.HELD,
                            definitions.live(each.getKey()),
                            oldest.sentence() + " " + String.format(Locale.ROOT, "%,d", rows) + " rows of " + recorders
                                    + (recorders == 1 ? " recorder" : " recorders")
                                    + " are held on disk; none is lost.",
                            oldest.since());
                })
                .toList();
    }

    private List<Matter> faulted() {
        return engine.status().values().stream()
                .filter(status -> status.state() == LaneState.FAULTED)
                .map(status -> matter(
                        "faulted " + status.definition().id(),
                        Sort.FAULTED,
                        Optional.of(status.definition()),
                        status.sentence() + " " + String.format(Locale.ROOT, "%,d", status.held())
                                + " rows wait on disk.",
                        status.since()))
                .toList();
    }

    private List<Matter> stopped() {
        return engine.local().stopped().entrySet().stream()
                .filter(each -> each.getValue().by().equals("itself"))
                .filter(each -> definitions.live(each.getKey()).isPresent())
                .map(each -> matter(
                        "stopped " + each.getKey(),
                        Sort.STOPPED,
                        definitions.live(each.getKey()),
                        "It stopped itself because "
                                + each.getValue().why().replaceFirst("\\.$", "")
                                + ". It does nothing until somebody starts it.",
                        each.getValue().at()))
                .toList();
    }

    private List<Matter> transactions() {
        return engine.transactions().all().stream()
                .flatMap(each -> engine.transactions().status(each.id()).stream())
                .filter(status -> status.state() == LaneState.FAULTED
                        || !status.uncertain().isEmpty())
                .map(status -> matter(
                        "transaction " + status.design().id(),
                        Sort.FAULTED,
                        Optional.of(status.design()),
                        status.uncertain().isEmpty()
                                ? status.sentence()
                                : "It is not known whether "
                                        + status.uncertain().size()
                                        + " of its requests are done; somebody has to look and say so on its page.",
                        status.lastRun().equals(Instant.EPOCH) ? started : status.lastRun()))
                .toList();
    }

    private List<Matter> aside() {
        Map<String, Long> counts = engine.local().aside().counts();
        asideSince.keySet().removeIf(recorder -> counts.getOrDefault(recorder, 0L) == 0);
        return counts.entrySet().stream()
                .filter(each -> each.getValue() > 0)
                .map(each -> matter(
                        "aside " + each.getKey(),
                        Sort.ASIDE,
                        definitions.live(each.getKey()),
                        String.format(Locale.ROOT, "%,d", each.getValue())
                                + " rows that its destination refused are set aside. They wait under Watch, to be mended and sent, or discarded.",
                        asideSince.computeIfAbsent(each.getKey(), this::newestAside)))
                .toList();
    }

    private Instant newestAside(String recorder) {
        return engine.local().aside().newest(recorder, 1).stream()
                .findFirst()
                .map(row -> row.at())
                .orElse(engine.clock().now());
    }

    private List<Matter> waiting() {
        Map<String, Integer> all = engine.transactions().waitingForNone();
        all.keySet().removeIf(id -> definitions.live(id).isPresent());
        waitingSince.keySet().retainAll(all.keySet());
        return all.entrySet().stream()
                .map(each -> matter(
                        "waiting " + each.getKey(),
                        Sort.WAITING,
                        definitions.find(each.getKey()),
                        (each.getValue() == 1
                                        ? "A trigger waits on disk, and it is not released any more. Released again, it does it;"
                                        : each.getValue()
                                                + " triggers wait on disk, and it is not released any more. Released again, it does them;")
                                + " under Watch what waits can be discarded.",
                        waitingSince.computeIfAbsent(
                                each.getKey(), id -> engine.clock().now())))
                .toList();
    }

    private List<Matter> oldRows() {
        List<Matter> all = new ArrayList<>();
        for (RecorderStatus status : engine.status().values()) {
            RecorderDefinition recorder = status.definition();
            for (RecorderDefinition.Where where : recorder.wheres()) {
                if (where.upkeep().keepDays() > 0) {
                    engine.oldRows(recorder.id(), where.destination())
                            .filter(OldRows.Removed::needsSomebody)
                            .ifPresent(removed -> all.add(matter(
                                    "old rows " + recorder.id() + " " + where.destination(),
                                    Sort.OLD_ROWS,
                                    Optional.of(recorder),
                                    "Rows older than " + where.upkeep().keepDays() + " days stay. " + removed.trouble(),
                                    removed.at())));
                }
            }
        }
        return all;
    }

    private List<Matter> oldMarks() {
        return engine.transactions().all().stream()
                .filter(design -> design.mark() && design.policy().keepMarks() > 0)
                .flatMap(design -> engine.oldMarks(design).stream()
                        .filter(OldMarks.Removed::needsSomebody)
                        .limit(1)
                        .map(removed -> matter(
                                "old marks " + design.id(),
                                Sort.OLD_ROWS,
                                Optional.of(design),
                                "Marks older than " + design.policy().keepMarks() + " days stay. " + removed.trouble(),
                                removed.at())))
                .toList();
    }

    private List<Matter> clock() {
        return engine.clockDoubt().stream()
                .map(doubt -> new Matter("clock", Sort.OLD_ROWS, "", "", Set.of(), doubt.words(), doubt.since()))
                .toList();
    }

    private List<Matter> silent() {
        return engine.sources().all().stream()
                .filter(run -> definitions.live(run.definition().id()).isPresent())
                .filter(run ->
                        run.status().state() == LinkState.AWAY || run.status().state() == LinkState.CONNECTING)
                .map(this::silent)
                .toList();
    }

    private Matter silent(SourceRun run) {
        SourceRun.Status status = run.status();
        return matter(
                "silent " + run.definition().id(),
                Sort.SILENT,
                Optional.of(run.definition()),
                status.sentence().isEmpty() ? "It does not answer." : status.sentence(),
                status.since());
    }

    private List<Matter> certificates() {
        long now = System.nanoTime();
        if (certificatesAt == Long.MIN_VALUE || now - certificatesAt > LOOK_AT_CERTIFICATES.toNanos()) {
            certificatesAt = now;
            List<Matter> found = new ArrayList<>();
            ends("the pages", tls.until(), found);
            own(found);
            trust.seen().stream()
                    .filter(OpcUaTrust.Seen::trusted)
                    .forEach(each -> ends("OPC UA, " + each.subject(), each.until(), found));
            authorities
                    .all()
                    .forEach(each -> ends(each.of().name() + ", its authority " + each.subject(), each.until(), found));
            certificates = List.copyOf(found);
        }
        return certificates;
    }

    private void own(List<Matter> found) {
        try {
            ends("OPC UA, our own", trust.describeOwn().until(), found);
        } catch (IllegalStateException cannot) {
            found.add(new Matter(
                    "own certificate",
                    Sort.ENDS,
                    "",
                    "",
                    Set.of(),
                    cannot.getMessage(),
                    engine.clock().now()));
        }
    }

    private void ends(String whose, Instant until, List<Matter> found) {
        Instant now = engine.clock().now();
        if (until.isBefore(now.plus(SOON))) {
            found.add(new Matter(
                    "ends " + whose + " " + until,
                    Sort.ENDS,
                    "",
                    "",
                    Set.of(),
                    "The certificate for " + whose + (until.isBefore(now) ? " has ended on " : " ends on ")
                            + until.truncatedTo(ChronoUnit.SECONDS) + ".",
                    now));
        }
    }

    private List<Matter> disk() {
        long free = engine.folder().toFile().getUsableSpace();
        return free > 0 && free < LOW_DISK
                ? List.of(new Matter(
                        "disk",
                        Sort.DISK,
                        "",
                        "",
                        Set.of(),
                        "The disk under " + engine.folder() + " has " + (free >> 20)
                                + " MB left. Below 512 MB no rows are taken any more.",
                        engine.clock().now()))
                : List.of();
    }

    /** Also notes that the application runs now. */
    private List<Matter> down() {
        long now = System.nanoTime();
        if (aliveAt == Long.MIN_VALUE || now - aliveAt > ALIVE_EACH.toNanos()) {
            aliveAt = now;
            engine.local().remember(ALIVE, engine.clock().now().toString());
        }
        boolean wasDown = aliveBefore
                .filter(before -> before.plus(WAS_DOWN).isBefore(started))
                .isPresent();
        return wasDown && engine.clock().now().isBefore(started.plus(DOWN_STANDS))
                ? List.of(new Matter(
                        "down " + started,
                        Sort.WAS_DOWN,
                        "",
                        "",
                        Set.of(),
                        "The application did not run from " + aliveBefore.get().truncatedTo(ChronoUnit.SECONDS) + " to "
                                + started.truncatedTo(ChronoUnit.SECONDS)
                                + ", by its own clock. Nothing was recorded in that time.",
                        aliveBefore.get()))
                : List.of();
    }

    private List<Matter> audit() {
        Audit.Checked checked = audit.checked();
        return checked.broken().isEmpty()
                ? List.of()
                : List.of(new Matter("audit", Sort.AUDIT, "", "", Set.of(), checked.broken(), checked.at()));
    }

    private Matter matter(String key, Sort sort, Optional<Definition> thing, String sentence, Instant since) {
        Filed filed = thing.map(each -> filings.of(each.id())).orElse(Filed.NOWHERE);
        String folder = filed.folder();
        if (folder.isEmpty() && thing.orElse(null) instanceof RecorderDefinition recorder) {
            folder = definitions
                    .find(EquipmentDefinition.class, recorder.equipment())
                    .map(EquipmentDefinition::location)
                    .orElse("");
        }
        return new Matter(
                key,
                sort,
                thing.map(Definition::name).orElse("something that is gone"),
                folder,
                Set.copyOf(filed.labels()),
                sentence,
                since);
    }
}
