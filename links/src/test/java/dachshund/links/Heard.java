package dachshund.links;

import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;

/** Keeps what a link tells. */
public class Heard implements PlantLink.Listener {

    public final Map<String, TagValue> values = new ConcurrentHashMap<>();
    public final List<String> problems = new CopyOnWriteArrayList<>();
    public volatile LinkState state = LinkState.NOT_PROVEN;
    public volatile String sentence = "";

    @Override
    public void onBatch(List<TagChange> changes) {
        changes.forEach(change -> values.put(change.address(), change.value()));
    }

    @Override
    public void onState(LinkState next, String why) {
        state = next;
        sentence = why;
    }

    @Override
    public void onProblem(String why) {
        problems.add(why);
    }
}
