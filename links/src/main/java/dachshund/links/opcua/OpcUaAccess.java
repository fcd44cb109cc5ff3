package dachshund.links.opcua;

import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.PlantClock;
import java.lang.reflect.Array;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.stack.core.AttributeId;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.encoding.EncodingContext;
import org.eclipse.milo.opcua.stack.core.types.builtin.ByteString;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.DateTime;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.builtin.Variant;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryData;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadResult;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadValueId;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadRawModifiedDetails;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadValueId;
import org.eclipse.milo.opcua.stack.core.types.structured.WriteValue;

/** Reads, writes and asks for history over a session, once at a time. */
final class OpcUaAccess {

    private final OpcUaClient client;
    private final PlantClock clock;
    private final boolean hex;
    private final OpcUaBrowser browser;

    OpcUaAccess(OpcUaClient client, LinkKind.Opening opening) {
        this.client = client;
        this.clock = opening.clock();
        this.hex = OpcUaKind.hex(opening);
        this.browser = new OpcUaBrowser(client);
    }

    Map<String, TagValue> read(List<TagInfo> tags) throws UaException {
        EncodingContext context = OpcUaPart.context(client);
        List<ReadValueId> wanted = new ArrayList<>();
        List<TagInfo> asked = new ArrayList<>();
        Map<String, TagValue> values = new HashMap<>();
        for (TagInfo tag : tags) {
            OpcUaPart part = OpcUaPart.of(tag, context);
            try {
                wanted.add(new ReadValueId(
                        browser.node(part.node()),
                        AttributeId.Value.uid(),
                        part.indexRange(),
                        QualifiedName.NULL_VALUE));
                asked.add(tag);
            } catch (UaException | UaRuntimeException unknown) {
                Instant now = clock.now();
                values.put(
                        tag.address(),
                        new TagValue(
                                Optional.empty(),
                                Quality.bad(0x80330000L, "the address cannot be read (Bad_NodeIdInvalid)"),
                                now,
                                now));
            }
        }
        if (!wanted.isEmpty()) {
            DataValue[] read = client.read(0, TimestampsToReturn.Both, wanted).getResults();
            Instant received = clock.now();
            for (int i = 0; i < asked.size(); i++) {
                values.put(
                        asked.get(i).address(),
                        OpcUaValues.tagValue(read[i], OpcUaPart.of(asked.get(i), context), received, hex));
            }
        }
        return values;
    }

    void write(TagInfo tag, Object value) throws UaException, LinkProblem {
        OpcUaPart part = OpcUaPart.of(tag, null);
        if (!part.field().isEmpty()) {
            throw new LinkProblem(
                    "A single field of a structure cannot be written; the server takes the structure as a whole only.");
        }
        NodeId node = browser.node(part.node());
        Object dataType = client.read(
                        0,
                        TimestampsToReturn.Neither,
                        List.of(new ReadValueId(node, AttributeId.DataType.uid(), null, QualifiedName.NULL_VALUE)))
                .getResults()[0]
                .getValue()
                .getValue();
        Object typed;
        try {
            typed = OpcUaValues.typed(dataType instanceof NodeId type ? type : NodeId.NULL_VALUE, value);
        } catch (IllegalArgumentException | ArithmeticException other) {
            throw new LinkProblem(other.getMessage() + " Nothing was written.", other);
        }
        if (part.element() >= 0) {
            Object one = Array.newInstance(typed.getClass(), 1);
            Array.set(one, 0, typed);
            typed = one;
        }
        StatusCode status = client.write(List.of(new WriteValue(
                        node, AttributeId.Value.uid(), part.indexRange(), DataValue.valueOnly(new Variant(typed)))))
                .getResults()[0];
        if (!status.isGood()) {
            throw new LinkProblem("The server refused the value: " + OpcUaWords.of(status) + ".");
        }
    }

    /** Raw history, oldest first (OPC 10000-11, 6.4.3), page by page. */
    List<TagValue> history(TagInfo tag, Instant from, Instant to, int most) throws UaException, LinkProblem {
        OpcUaPart part = OpcUaPart.of(tag, OpcUaPart.context(client));
        NodeId node = browser.node(part.node());
        List<TagValue> values = new ArrayList<>();
        ByteString more = ByteString.NULL_VALUE;
        ReadRawModifiedDetails details = new ReadRawModifiedDetails(
                false,
                new DateTime(OpcUaTime.toTicks(from)),
                new DateTime(OpcUaTime.toTicks(to)),
                Unsigned.uint(most),
                false);
        do {
            HistoryReadResult result = client.historyRead(
                            details,
                            TimestampsToReturn.Both,
                            false,
                            List.of(new HistoryReadValueId(node, part.indexRange(), QualifiedName.NULL_VALUE, more)))
                    .getResults()[0];
            if (result.getStatusCode().isBad()) {
                throw new LinkProblem(
                        "The server keeps no history of this tag: " + OpcUaWords.of(result.getStatusCode()) + ".");
            }
            if (result.getHistoryData() != null
                    && result.getHistoryData().decode(client.getStaticEncodingContext()) instanceof HistoryData data
                    && data.getDataValues() != null) {
                Instant received = clock.now();
                for (DataValue value : data.getDataValues()) {
                    values.add(OpcUaValues.tagValue(value, part, received, hex));
                }
            }
            more = result.getContinuationPoint();
        } while (more != null && !more.isNull() && values.size() < most);
        return values.size() > most ? values.subList(0, most) : values;
    }
}
