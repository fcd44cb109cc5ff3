package dachshund.engine.kept;

import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.local.LocalStore;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ScheduledExecutorService;

/** The kept tags of one source. A write is on disk before anybody sees the new value. */
final class KeptLink implements PlantLink {

    private static final Quality NEVER_WRITTEN = Quality.bad(Quality.WAITING.code(), "nobody has written it yet");

    private final String source;
    private final PlantClock clock;
    private final LocalStore local;
    private List<TagInfo> wanted = List.of();
    private Listener listener;

    KeptLink(String source, PlantClock clock, LocalStore local) {
        this.source = source;
        this.clock = clock;
        this.local = local;
    }

    @Override
    public LinkTest test(Duration limit) {
        return LinkTest.good("Kept tags need no connection; their values lie on this machine's disk.", "Kept tags");
    }

    @Override
    public Page browse(String folder, String path, String from) throws LinkProblem {
        throw new LinkProblem("Kept tags are described, not browsed.");
    }

    @Override
    public synchronized void start(Listener heard, ScheduledExecutorService work) {
        listener = heard;
        listener.onState(LinkState.CONNECTED, "Kept on this machine.");
        show(wanted);
    }

    @Override
    public synchronized void want(Collection<TagInfo> tags) {
        Map<String, TagInfo> before = new HashMap<>();
        wanted.forEach(tag -> before.put(tag.address(), tag));
        wanted = List.copyOf(tags);
        if (listener != null) {
            show(wanted.stream()
                    .filter(tag -> !tag.equals(before.get(tag.address())))
                    .toList());
        }
    }

    private void show(List<TagInfo> tags) {
        Map<String, LocalStore.Kept> kept = local.kept(source);
        List<TagChange> changes = new ArrayList<>();
        for (TagInfo tag : tags) {
            TagValue value = value(tag, Optional.ofNullable(kept.get(tag.address())));
            changes.add(new TagChange(tag.address(), value));
        }
        if (!changes.isEmpty()) {
            listener.onBatch(changes);
        }
    }

    private TagValue value(TagInfo tag, Optional<LocalStore.Kept> kept) {
        Instant now = clock.now();
        String first = tag.how().getOrDefault(KeptKind.FIRST, "");
        try {
            if (kept.isPresent()) {
                return new TagValue(
                        Optional.of(TagText.read(tag.kind(), kept.get().value())),
                        Quality.GOOD,
                        kept.get().at(),
                        now);
            }
            return first.isBlank()
                    ? new TagValue(Optional.empty(), NEVER_WRITTEN, now, now)
                    : TagValue.good(TagText.read(tag.kind(), first), now);
        } catch (IllegalArgumentException otherKind) {
            return new TagValue(
                    Optional.empty(),
                    Quality.bad(
                            0x80740000L, "the value kept is not a " + tag.kind().words() + " (Bad_TypeMismatch)"),
                    now,
                    now);
        }
    }

    @Override
    public synchronized Map<String, TagValue> read(Collection<TagInfo> tags, Duration limit) {
        Map<String, LocalStore.Kept> kept = local.kept(source);
        Map<String, TagValue> read = new HashMap<>();
        tags.forEach(tag -> read.put(tag.address(), value(tag, Optional.ofNullable(kept.get(tag.address())))));
        return read;
    }

    @Override
    public synchronized void write(TagInfo tag, Object value, Duration limit) throws LinkProblem {
        if (tag.kind() == DataKind.TEXT && String.valueOf(value).length() > 4000) {
            throw new LinkProblem("A kept text has up to 4,000 characters.");
        }
        Instant now = clock.now();
        local.keep(new TagRef(source, tag.address()), tag.kind(), TagText.write(value), now);
        if (listener != null) {
            listener.onBatch(List.of(new TagChange(tag.address(), TagValue.good(value, now))));
        }
    }

    @Override
    public synchronized void close() {
        listener = null;
    }
}
