package dachshund.web.api;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagFacts;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.Values;
import dachshund.engine.Engine;
import dachshund.engine.source.Sources;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.security.SecurityRequirement;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.springframework.http.MediaType;
import org.springframework.security.access.AccessDeniedException;
import org.springframework.security.core.Authentication;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** The plant for programs: tags, values, writing, listening. */
@RestController
@RequestMapping(path = "/api/v1", produces = MediaType.APPLICATION_JSON_VALUE)
@SecurityRequirement(name = "token")
class ApiController {

    private static final int MOST = 1000;

    private final Definitions definitions;
    private final Engine engine;
    private final TagFinder finder;
    private final NamedTags named;
    private final ApiStreams streams;
    private final Audit audit;

    /** A source. */
    public record Source(String id, String name, String kind, String state, Instant since, String sentence, int tags) {}

    /** A tag and what is known of it. */
    public record Tag(
            String source,
            String sourceName,
            String address,
            String path,
            String name,
            String kind,
            String unit,
            String description,
            Double low,
            Double high,
            boolean writable,
            String equipment) {}

    /** A page of tags. */
    public record Tags(int total, int from, List<Tag> tags) {}

    /** Which tag: the id or name of its source, and its address there. */
    public record Ref(String source, String address) {}

    /** Which tags. */
    public record Refs(List<Ref> tags) {}

    /** A value: number, text, true or false, an RFC 3339 time, or null where there is none. */
    public record Value(
            String source,
            String address,
            Object value,
            String quality,
            long qualityCode,
            String qualityWords,
            Instant sourceTime,
            Instant serverTime,
            Instant receiveTime) {

        static Value of(TagRef ref, TagValue value) {
            return new Value(
                    ref.source(),
                    ref.address(),
                    value.value().orElse(null),
                    value.quality().grade().name().toLowerCase(Locale.ROOT),
                    value.quality().code(),
                    value.quality().words(),
                    value.arrived() ? value.sourceTime() : null,
                    value.serverTime().orElse(null),
                    value.arrived() ? value.receiveTime() : null);
        }
    }

    /** A value to write. */
    public record Writing(String source, String address, Object value) {}

    /** What a write did: what was there before, and what was read back. */
    public record Written(boolean same, Value before, Value after) {}

    ApiController(
            Definitions definitions,
            Engine engine,
            TagFinder finder,
            NamedTags named,
            ApiStreams streams,
            Audit audit) {
        this.named = named;
        this.definitions = definitions;
        this.engine = engine;
        this.finder = finder;
        this.streams = streams;
        this.audit = audit;
    }

    @GetMapping("/sources")
    @Operation(summary = "All sources and how they stand")
    List<Source> sources() {
        return definitions.all(SourceDefinition.class).stream()
                .map(source -> engine.sources()
                        .find(source.id())
                        .map(run -> new Source(
                                source.id(),
                                source.name(),
                                source.link(),
                                run.status().state().words(),
                                run.status().since(),
                                run.status().sentence(),
                                source.tags().size()))
                        .orElseGet(() -> new Source(
                                source.id(),
                                source.name(),
                                source.link(),
                                "Not running",
                                Instant.EPOCH,
                                "",
                                source.tags().size())))
                .toList();
    }

    @GetMapping("/tags")
    @Operation(
            summary = "Tags that have all of the words",
            description =
                    "q: words in any order over source, path, name, description, labels and equipment. quality: good, uncertain, bad or stale. "
                            + "changed: only tags that changed in the last such time, for example 10 min. unit: what they are measured in. equipment: name of what they are mapped to. At most 1,000 at once.")
    Tags tags(
            @RequestParam(defaultValue = "") String q,
            @RequestParam(defaultValue = "") String source,
            @RequestParam(defaultValue = "") String kind,
            @RequestParam(defaultValue = "") String quality,
            @RequestParam(defaultValue = "") String changed,
            @RequestParam(defaultValue = "") String unit,
            @RequestParam(defaultValue = "") String equipment,
            @RequestParam(defaultValue = "") String designed,
            @RequestParam(defaultValue = "") String by,
            @RequestParam(defaultValue = "0") int from,
            @RequestParam(defaultValue = "100") int count) {
        Optional<DataKind> sort = kind.isBlank() ? Optional.empty() : Optional.of(TagFacts.kind(kind));
        List<FoundTag> found = finder.find(new TagFinder.Wanted(
                source.isBlank() ? "" : named.source(source),
                q,
                sort,
                quality,
                changed.isBlank() ? Optional.empty() : Optional.of(PeriodText.read(changed)),
                unit.strip(),
                equipment.strip(),
                TagFinder.Design.read(designed.strip(), by.strip())));
        if (from < 0 || count < 1 || count > MOST) {
            throw new IllegalArgumentException("from begins at 0, and count is 1 to " + MOST + ".");
        }
        int first = Math.min(from, found.size());
        return new Tags(
                found.size(),
                first,
                found.subList(first, Math.min(found.size(), first + count)).stream()
                        .map(ApiController::tag)
                        .toList());
    }

    private static Tag tag(FoundTag tag) {
        return new Tag(
                tag.source().id(),
                tag.source().name(),
                tag.info().address(),
                tag.info().path(),
                tag.info().name(),
                tag.info().kind().words(),
                tag.info().unit(),
                tag.info().description(),
                tag.info().range().map(Range::low).orElse(null),
                tag.info().range().map(Range::high).orElse(null),
                tag.info().writable(),
                tag.equipment());
    }

    private TagRef ref(String source, String address) {
        return named.find(source, address).ref();
    }

    @GetMapping("/values")
    @Operation(summary = "The value of one tag")
    Value value(@RequestParam String source, @RequestParam String address) {
        TagRef ref = ref(source, address);
        return Value.of(ref, engine.tags().entry(ref).value());
    }

    @PostMapping("/values/read")
    @Operation(
            summary = "The values of several tags, in the order they were asked for",
            description = "At most 1,000 at once.")
    List<Value> values(@RequestBody Refs refs) {
        if (refs.tags() == null
                || refs.tags().isEmpty()
                || refs.tags().size() > MOST
                || refs.tags().contains(null)) {
            throw new IllegalArgumentException("Name 1 to " + MOST + " tags.");
        }
        return refs.tags().stream()
                .map(each -> ref(each.source(), each.address()))
                .map(ref -> Value.of(ref, engine.tags().entry(ref).value()))
                .toList();
    }

    @PostMapping("/values")
    @Operation(
            summary = "Writes one tag and reads it back",
            description =
                    "A kept tag needs the scope write-kept; a tag of the plant needs write-plant, and writing switched on at its source.")
    Written write(@RequestBody Writing writing, Authentication by) throws LinkProblem {
        TagRef ref = ref(writing.source(), writing.address());
        FoundTag tag = finder.find(ref).orElseThrow();
        boolean plant = engine.sources().kind(tag.source().link()).outside();
        String needed = plant ? "SCOPE_write-plant" : "SCOPE_write-kept";
        if (by.getAuthorities().stream()
                .noneMatch(authority -> authority.getAuthority().equals(needed))) {
            throw new AccessDeniedException(needed);
        }
        if (writing.value() == null) {
            throw new IllegalArgumentException("value is missing.");
        }
        Object typed = TagText.read(tag.info().kind(), String.valueOf(writing.value()));
        Instant begun = engine.clock().now();
        String name = tag.info().fullName();
        String was = Values.words(tag.entry().value().value().orElse(null));
        Sources.Written written;
        try {
            written = engine.sources().write(ref, typed, by.getName());
        } catch (LinkProblem refused) {
            engine.happenings()
                    .wrote(
                            ref.source(),
                            name,
                            was,
                            TagText.write(typed),
                            "",
                            by.getName(),
                            refused.getMessage(),
                            begun);
            throw refused;
        }
        engine.happenings()
                .wrote(
                        ref.source(),
                        name,
                        was,
                        TagText.write(typed),
                        Values.words(written.after().value().orElse(null)),
                        by.getName(),
                        "",
                        begun);
        audit.note(
                by.getName(),
                "wrote a tag",
                tag.source().name() + " / " + tag.info().fullName() + ": " + TagText.write(typed));
        return new Written(written.same(), Value.of(ref, written.before()), Value.of(ref, written.after()));
    }

    @GetMapping(path = "/stream", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    @Operation(
            summary = "Changes as they come, as server-sent events",
            description =
                    "tag: source and address separated by one space, repeated for each tag, 1,000 at most. "
                            + "The first event has the present values; each later one the changes of a tenth of a second. An event named dropped says how many changes a slow reader lost.")
    SseEmitter stream(@RequestParam List<String> tag) {
        if (tag.size() > MOST) {
            throw new IllegalArgumentException("Name 1 to " + MOST + " tags.");
        }
        return streams.open(tag.stream()
                .map(key -> {
                    TagRef named = TagFinder.ref(key);
                    return ref(named.source(), named.address());
                })
                .toList());
    }
}
