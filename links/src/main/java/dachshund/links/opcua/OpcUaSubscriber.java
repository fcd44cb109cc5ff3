package dachshund.links.opcua;

import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.LongAdder;
import java.util.function.Consumer;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.sdk.client.subscriptions.MonitoredItemSynchronizationException;
import org.eclipse.milo.opcua.sdk.client.subscriptions.OpcUaMonitoredItem;
import org.eclipse.milo.opcua.sdk.client.subscriptions.OpcUaSubscription;
import org.eclipse.milo.opcua.stack.core.AttributeId;
import org.eclipse.milo.opcua.stack.core.StatusCodes;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.encoding.EncodingContext;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.DataChangeTrigger;
import org.eclipse.milo.opcua.stack.core.types.enumerated.DeadbandType;
import org.eclipse.milo.opcua.stack.core.types.structured.DataChangeFilter;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadValueId;

/** One subscription of one session, and the items in it. Belongs to its link, which calls it under the link's lock. */
final class OpcUaSubscriber {

    /** What a monitored item stands for. */
    private record Wanted(TagInfo tag, OpcUaPart part) {}

    private static final long CREATE_SECONDS = 10;

    private final OpcUaClient client;
    private final PlantLink.Listener listener;
    private final PlantClock clock;
    private final double samplingMillis;
    private final int queue;
    private final String deadband;
    private final boolean hex;
    private final OpcUaSubscription subscription;
    private final EncodingContext context;
    private final LongAdder overflows;
    private final Map<String, OpcUaMonitoredItem> items = new HashMap<>();
    private volatile int withoutDeadband;

    /** @param lost hears of the end of the subscription, in words */
    OpcUaSubscriber(
            OpcUaClient client,
            LinkKind.Opening opening,
            PlantLink.Listener listener,
            LongAdder overflows,
            Consumer<String> lost)
            throws UaException {
        this.client = client;
        this.listener = listener;
        this.clock = opening.clock();
        this.samplingMillis = opening.rate().toMillis();
        this.queue = opening.whole("queue", 10);
        this.deadband = opening.setting("deadband");
        this.hex = OpcUaKind.hex(opening);
        this.overflows = overflows;
        this.context = OpcUaPart.context(client);
        Duration publishing = opening.setting("publishing").isEmpty()
                ? opening.rate()
                : PeriodText.read(opening.setting("publishing"));
        subscription = new OpcUaSubscription(client, publishing.toMillis());
        subscription.setSubscriptionListener(new OpcUaSubscription.SubscriptionListener() {
            @Override
            public void onDataReceived(
                    OpcUaSubscription from, List<OpcUaMonitoredItem> changed, List<DataValue> values) {
                deliver(changed, values);
            }

            @Override
            public void onWatchdogTimerElapsed(OpcUaSubscription from) {
                lost.accept("The server sent nothing, not even a sign of life.");
            }

            @Override
            public void onStatusChanged(OpcUaSubscription from, StatusCode status) {
                lost.accept("The server ended the subscription: " + OpcUaWords.of(status) + ".");
            }

            @Override
            public void onTransferFailed(OpcUaSubscription from, StatusCode status) {
                lost.accept("The server does not know the subscription any more.");
            }
        });
        try {
            subscription.createAsync().toCompletableFuture().get(CREATE_SECONDS, TimeUnit.SECONDS);
        } catch (ExecutionException refused) {
            throw refused.getCause() instanceof UaException its
                    ? its
                    : new UaException(StatusCodes.Bad_UnexpectedError, refused.getCause());
        } catch (TimeoutException silent) {
            throw new UaException(StatusCodes.Bad_Timeout, silent);
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new UaException(StatusCodes.Bad_Timeout, interrupted);
        }
    }

    /** How many tags are sent without the dead band, because the server knows none for them. */
    int withoutDeadband() { // read without waiting for the server
        return withoutDeadband;
    }

    private void deliver(List<OpcUaMonitoredItem> changed, List<DataValue> values) {
        Instant received = clock.now();
        List<TagChange> batch = new ArrayList<>(changed.size());
        for (int i = 0; i < changed.size(); i++) {
            Wanted wanted = (Wanted) changed.get(i).getUserObject().orElseThrow();
            DataValue value = values.get(i);
            if (OpcUaValues.overflow(value)) {
                overflows.increment();
            }
            batch.add(new TagChange(wanted.tag.address(), OpcUaValues.tagValue(value, wanted.part, received, hex)));
        }
        listener.onBatch(batch);
    }

    /** Makes the subscription hold what is wanted. */
    synchronized void follow(Map<String, TagInfo> tags) {
        List<OpcUaMonitoredItem> gone = new ArrayList<>();
        items.entrySet().removeIf(entry -> {
            TagInfo tag = tags.get(entry.getKey());
            boolean other = tag == null
                    || !tag.how()
                            .equals(((Wanted) entry.getValue().getUserObject().orElseThrow()).tag.how());
            if (other) {
                gone.add(entry.getValue());
            }
            return other;
        });
        subscription.removeMonitoredItems(gone);
        OpcUaBrowser browser = new OpcUaBrowser(client);
        List<TagChange> refused = new ArrayList<>();
        List<OpcUaMonitoredItem> come = new ArrayList<>();
        for (TagInfo tag : tags.values()) {
            if (items.containsKey(tag.address())) {
                continue;
            }
            try {
                OpcUaMonitoredItem item = item(browser, tag);
                items.put(tag.address(), item);
                come.add(item);
            } catch (UaException | UaRuntimeException | IllegalArgumentException unknown) {
                refused.add(bad(
                        tag.address(),
                        Quality.bad(
                                0x80330000L,
                                "the server has no such namespace or the address cannot be read (Bad_NodeIdInvalid)")));
            }
        }
        add(come);
        List<OpcUaMonitoredItem> again =
                come.stream().filter(OpcUaSubscriber::refusedForItsFilter).toList();
        if (!again.isEmpty()) {
            withoutDeadband += again.size();
            subscription.removeMonitoredItems(again);
            again.forEach(item -> item.setFilter(null));
            add(again);
        }
        for (OpcUaMonitoredItem item : come) {
            Optional<StatusCode> result = item.getCreateResult();
            if (result.isPresent() && result.get().isBad()) {
                refused.add(bad(
                        ((Wanted) item.getUserObject().orElseThrow()).tag.address(),
                        OpcUaValues.quality(result.get())));
            }
        }
        if (!refused.isEmpty()) {
            listener.onBatch(refused);
        }
    }

    private void add(List<OpcUaMonitoredItem> come) {
        subscription.addMonitoredItems(come);
        try {
            subscription.synchronizeMonitoredItems();
        } catch (MonitoredItemSynchronizationException someRefused) {
            // told one by one from the items' results
        }
    }

    private static boolean refusedForItsFilter(OpcUaMonitoredItem item) {
        long code = item.getCreateResult().map(StatusCode::getValue).orElse(0L);
        return item.getFilter() != null
                && (code == StatusCodes.Bad_FilterNotAllowed
                        || code == StatusCodes.Bad_MonitoredItemFilterUnsupported
                        || code == StatusCodes.Bad_MonitoredItemFilterInvalid
                        || code == StatusCodes.Bad_DeadbandFilterInvalid);
    }

    private OpcUaMonitoredItem item(OpcUaBrowser browser, TagInfo tag) throws UaException {
        OpcUaPart part = OpcUaPart.of(tag, context);
        OpcUaMonitoredItem item = new OpcUaMonitoredItem(new ReadValueId(
                browser.node(part.node()), AttributeId.Value.uid(), part.indexRange(), QualifiedName.NULL_VALUE));
        item.setSamplingInterval(samplingMillis);
        item.setQueueSize(Unsigned.uint(queue));
        item.setUserObject(new Wanted(tag, part));
        filter(tag, part).ifPresent(item::setFilter);
        return item;
    }

    private Optional<DataChangeFilter> filter(TagInfo tag, OpcUaPart part) {
        boolean percent = deadband.endsWith("%");
        if (deadband.isEmpty()
                || !part.field().isEmpty()
                || tag.kind() != dachshund.core.tag.DataKind.NUMBER
                || percent && tag.range().isEmpty()) {
            return Optional.empty();
        }
        double size = Double.parseDouble(deadband.replace("%", "").strip());
        int type = percent ? DeadbandType.Percent.getValue() : DeadbandType.Absolute.getValue();
        return Optional.of(new DataChangeFilter(DataChangeTrigger.StatusValue, Unsigned.uint(type), size));
    }

    private TagChange bad(String address, Quality quality) {
        Instant now = clock.now();
        return new TagChange(address, new TagValue(Optional.empty(), quality, now, now));
    }
}
