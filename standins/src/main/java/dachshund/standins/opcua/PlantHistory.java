package dachshund.standins.opcua;

import java.nio.ByteBuffer;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.eclipse.milo.opcua.sdk.server.OpcUaServer;
import org.eclipse.milo.opcua.stack.core.types.builtin.ByteString;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExtensionObject;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryData;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadResult;
import org.eclipse.milo.opcua.stack.core.types.structured.HistoryReadValueId;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadRawModifiedDetails;

/** The last values of each node since the server started, read raw and in pages of 500 (OPC 10000-11, 6.4.3). */
final class PlantHistory {

    private static final int KEPT = 7200;
    private static final int PAGE = 500;

    private final Map<NodeId, Deque<DataValue>> kept = new ConcurrentHashMap<>();

    void keep(NodeId node, DataValue value) {
        Deque<DataValue> values = kept.computeIfAbsent(node, id -> new ArrayDeque<>());
        synchronized (values) {
            values.addLast(value);
            if (values.size() > KEPT) {
                values.removeFirst();
            }
        }
    }

    /** A continuation point holds the source time from which to go on. */
    HistoryReadResult read(OpcUaServer server, HistoryReadValueId wanted, ReadRawModifiedDetails details) {
        ByteString point = wanted.getContinuationPoint();
        long from = point == null || point.isNull()
                ? details.getStartTime().getUtcTime()
                : ByteBuffer.wrap(point.bytesOrEmpty()).getLong();
        int asked = details.getNumValuesPerNode().intValue();
        int most = asked == 0 ? PAGE : Math.min(PAGE, asked);
        List<DataValue> page = new ArrayList<>();
        ByteString more = ByteString.NULL_VALUE;
        Deque<DataValue> values = kept.getOrDefault(wanted.getNodeId(), new ArrayDeque<>());
        synchronized (values) {
            for (DataValue value : values) {
                long at = value.getSourceTime().getUtcTime();
                if (at < from || at >= details.getEndTime().getUtcTime()) {
                    continue;
                }
                if (page.size() == most) {
                    more = ByteString.of(ByteBuffer.allocate(8).putLong(at).array());
                    break;
                }
                page.add(value);
            }
        }
        HistoryData data = new HistoryData(page.toArray(DataValue[]::new));
        return new HistoryReadResult(
                StatusCode.GOOD, more, ExtensionObject.encode(server.getStaticEncodingContext(), data));
    }
}
