package dachshund.office.archive;

import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.time.OpcUaTime;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.archive.HistoryFile.Known;
import dachshund.office.archive.HistoryFile.Result;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/**
 * Brings history in from a file: first it is said what would be written beside what is there, then it is written. It may be
 * stopped and begun again: what is there already is only replaced by itself.
 */
@Component
public class HistoryImport {

    private final TagFinder finder;
    private final Engine engine;
    private final Histories histories;
    private final BlockTable table;

    /**
     * What a file has for one tag.
     *
     * @param fresh     values at instants of which the archive has none
     * @param equal     that are in the archive already
     * @param different at instants of which the archive has another value, which they would take the place of
     */
    public record Line(String tag, long fresh, long equal, long different, Instant first, Instant last) {

        Line plus(Line more) {
            return new Line(
                    tag,
                    fresh + more.fresh,
                    equal + more.equal,
                    different + more.different,
                    first.isBefore(more.first) ? first : more.first,
                    last.isAfter(more.last) ? last : more.last);
        }

        public long all() {
            return fresh + equal + different;
        }
    }

    /**
     * What a file has.
     *
     * @param refused  values that are left out
     * @param refusals why, of the first ones
     * @param unknown  names of tags that are not there; their values are left out
     * @param times    how its times are written
     */
    public record Review(List<Line> lines, long refused, List<String> refusals, List<String> unknown, String times) {

        public long all() {
            return lines.stream().mapToLong(Line::all).sum();
        }

        public long different() {
            return lines.stream().mapToLong(Line::different).sum();
        }
    }

    /** A file is none that can be read, in a sentence. */
    public static final class Unreadable extends Exception {
        private static final long serialVersionUID = 1;

        Unreadable(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    HistoryImport(TagFinder finder, Engine engine, Histories histories, BlockTable table) {
        this.finder = finder;
        this.engine = engine;
        this.histories = histories;
        this.table = table;
    }

    /** Tags by "source / folders / name", by the name alone where only one has it, or by source id and address. */
    private Function<String, Optional<Known>> tags() {
        Map<String, Optional<FoundTag>> byName = new HashMap<>();
        Map<String, FoundTag> byFullName = new HashMap<>();
        for (FoundTag tag : finder.find("", "")) {
            byFullName.put(full(tag).toLowerCase(Locale.ROOT), tag);
            byFullName.put(tag.key().toLowerCase(Locale.ROOT), tag);
            // Two of one name are none: nobody can know which is meant.
            byName.merge(tag.info().name().toLowerCase(Locale.ROOT), Optional.of(tag), (a, b) -> Optional.empty());
        }
        return name -> {
            String wanted = name.toLowerCase(Locale.ROOT);
            FoundTag exact = byFullName.get(wanted);
            return (exact != null ? Optional.of(exact) : byName.getOrDefault(wanted, Optional.empty()))
                    .map(tag -> new Known(
                            tag.ref(),
                            full(tag),
                            tag.info(),
                            engine.archive()
                                    .ruleOf(tag.ref())
                                    .map(KeepingRuleDefinition::keptFor)
                                    .orElse(KeptFor.EVER)));
        };
    }

    private static String full(FoundTag tag) {
        return tag.source().name() + " / " + tag.info().fullName();
    }

    /** Says what would be written; nothing is. */
    public Review review(Path file, Progress progress) throws Exception {
        progress.step("Reading the file beside the archive", 0, true);
        Map<String, Line> lines = new LinkedHashMap<>();
        Result result = HistoryFile.read(
                file,
                tags(),
                engine.zone(),
                engine.clock().now(),
                (tag, values) -> lines.merge(tag.name(), compare(tag, values), Line::plus),
                progress);
        return new Review(
                List.copyOf(lines.values()), result.refused(), result.refusals(), result.unknown(), result.times());
    }

    private Line compare(Known tag, Series values) throws Exception {
        Instant first = OpcUaTime.toInstant(values.time(0));
        Instant last = OpcUaTime.toInstant(values.time(values.size() - 1));
        Series there = histories.read(tag.ref(), first, last.plusNanos(100)).series();
        long fresh = 0;
        long equal = 0;
        long different = 0;
        int at = 0;
        for (int i = 0; i < values.size(); i++) {
            while (at < there.size() && there.time(at) < values.time(i)) {
                at++;
            }
            if (at == there.size() || there.time(at) != values.time(i)) {
                fresh++;
            } else if (Objects.equals(there.value(at), values.value(i))
                    && Marks.quality(there.mark(at)).equals(Marks.quality(values.mark(i)))) {
                equal++;
            } else {
                different++;
            }
        }
        return new Line(tag.name(), fresh, equal, different, first, last);
    }

    /**
     * Writes what the file has.
     *
     * @return how many values
     */
    public long write(Path file, Progress progress) throws Exception {
        progress.step("Writing to the archive", 0, true);
        long[] written = {0};
        HistoryFile.read(
                file,
                tags(),
                engine.zone(),
                engine.clock().now(),
                (tag, values) -> {
                    long key = TagKey.of(tag.ref());
                    List<Block> of = Block.of(key, values);
                    table.bringIn("brought in", of, List.of(new Tag(key, tag.ref(), tag.name(), tag.lasting())));
                    written[0] += of.stream().mapToLong(Block::values).sum();
                },
                progress);
        return written[0];
    }
}
