package dachshund.links.opcua;

import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.eclipse.milo.opcua.sdk.client.OpcUaClient;
import org.eclipse.milo.opcua.stack.core.AttributeId;
import org.eclipse.milo.opcua.stack.core.NodeIds;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.types.builtin.DataValue;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExpandedNodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.ExtensionObject;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.builtin.NodeId;
import org.eclipse.milo.opcua.stack.core.types.builtin.QualifiedName;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.UByte;
import org.eclipse.milo.opcua.stack.core.types.builtin.unsigned.Unsigned;
import org.eclipse.milo.opcua.stack.core.types.enumerated.BrowseDirection;
import org.eclipse.milo.opcua.stack.core.types.enumerated.BrowseResultMask;
import org.eclipse.milo.opcua.stack.core.types.enumerated.NodeClass;
import org.eclipse.milo.opcua.stack.core.types.enumerated.TimestampsToReturn;
import org.eclipse.milo.opcua.stack.core.types.structured.BrowseDescription;
import org.eclipse.milo.opcua.stack.core.types.structured.BrowseResult;
import org.eclipse.milo.opcua.stack.core.types.structured.EUInformation;
import org.eclipse.milo.opcua.stack.core.types.structured.ReadValueId;
import org.eclipse.milo.opcua.stack.core.types.structured.ReferenceDescription;

/** Walks a server's address space one folder at a time; variables come with their type, unit and description. */
final class OpcUaBrowser {

    private static final int PIECE = 200;
    private static final int ALL_RESULTS = BrowseResultMask.All.getValue();

    private final OpcUaClient client;

    OpcUaBrowser(OpcUaClient client) {
        this.client = client;
    }

    List<Found> below(String folder, String path) throws UaException {
        NodeId parent = folder.isEmpty() ? NodeIds.ObjectsFolder : node(folder);
        List<Found> found = new ArrayList<>();
        List<ReferenceDescription> variables = new ArrayList<>();
        int classes = NodeClass.Object.getValue() | NodeClass.Variable.getValue();
        for (ReferenceDescription child : references(parent, NodeIds.HierarchicalReferences, classes)) {
            boolean standard = child.getNodeId().getNamespaceIndex().intValue() == 0;
            if (NodeIds.HasProperty.equals(child.getReferenceTypeId()) || standard && folder.isEmpty()) {
                continue; // the server's own housekeeping
            }
            if (child.getNodeClass() == NodeClass.Object) {
                found.add(new Found.Folder(address(child.getNodeId()), path, name(child)));
            } else {
                variables.add(child);
            }
        }
        for (int from = 0; from < variables.size(); from += PIECE) {
            found.addAll(describe(variables.subList(from, Math.min(variables.size(), from + PIECE)), path));
        }
        return found;
    }

    /** The node of an address as kept in definitions, with the namespace index it has on this server now. */
    NodeId node(String address) throws UaException {
        return ExpandedNodeId.parse(address).toNodeIdOrThrow(client.getNamespaceTable());
    }

    private String address(ExpandedNodeId id) {
        String text = id.toNodeId(client.getNamespaceTable()).orElseThrow().toParseableString();
        int index = id.getNamespaceIndex().intValue();
        return index == 0 ? text : "nsu=" + client.getNamespaceTable().get(index) + text.substring(text.indexOf(';'));
    }

    private static String name(ReferenceDescription reference) {
        LocalizedText display = reference.getDisplayName();
        return display != null && display.getText() != null && !display.getText().isBlank() ? display.getText() : reference.getBrowseName().getName();
    }

    private List<ReferenceDescription> references(NodeId node, NodeId type, int classes) throws UaException {
        BrowseResult result = client.browse(new BrowseDescription(node, BrowseDirection.Forward, type, true,
                Unsigned.uint(classes), Unsigned.uint(ALL_RESULTS)));
        List<ReferenceDescription> all = new ArrayList<>();
        while (true) {
            if (result.getReferences() != null) {
                all.addAll(List.of(result.getReferences()));
            }
            if (result.getContinuationPoint() == null || result.getContinuationPoint().isNull()) {
                return all;
            }
            result = client.browseNext(false, List.of(result.getContinuationPoint())).getResults()[0];
        }
    }

    private List<Found> describe(List<ReferenceDescription> variables, String path) throws UaException {
        List<ReadValueId> wanted = new ArrayList<>();
        List<BrowseDescription> properties = new ArrayList<>();
        for (ReferenceDescription variable : variables) {
            NodeId node = variable.getNodeId().toNodeIdOrThrow(client.getNamespaceTable());
            for (AttributeId attribute : List.of(AttributeId.DataType, AttributeId.ValueRank, AttributeId.Description, AttributeId.UserAccessLevel)) {
                wanted.add(new ReadValueId(node, attribute.uid(), null, QualifiedName.NULL_VALUE));
            }
            properties.add(new BrowseDescription(node, BrowseDirection.Forward, NodeIds.HasProperty, true,
                    Unsigned.uint(NodeClass.Variable.getValue()), Unsigned.uint(ALL_RESULTS)));
        }
        DataValue[] facts = client.read(0, TimestampsToReturn.Neither, wanted).getResults();
        Map<Integer, String> units = units(properties);
        List<Found> found = new ArrayList<>();
        for (int i = 0; i < variables.size(); i++) {
            NodeId dataType = facts[i * 4].getValue().getValue() instanceof NodeId type ? type : NodeId.NULL_VALUE;
            boolean scalar = !(facts[i * 4 + 1].getValue().getValue() instanceof Integer rank) || rank < 0;
            String description = facts[i * 4 + 2].getValue().getValue() instanceof LocalizedText text && text.getText() != null ? text.getText() : "";
            boolean writable = facts[i * 4 + 3].getValue().getValue() instanceof UByte access && (access.intValue() & 2) != 0;
            ReferenceDescription variable = variables.get(i);
            found.add(new Found.Tag(new TagInfo(address(variable.getNodeId()), path, name(variable),
                    scalar ? OpcUaValues.kind(dataType) : DataKind.OTHER, units.getOrDefault(i, ""), description, writable)));
        }
        return found;
    }

    /** Engineering units by the index of their variable (OPC 10000-8, 5.6.3). */
    private Map<Integer, String> units(List<BrowseDescription> properties) throws UaException {
        List<BrowseResult> results = client.browse(properties);
        List<Integer> owners = new ArrayList<>();
        List<ReadValueId> wanted = new ArrayList<>();
        for (int i = 0; i < results.size(); i++) {
            ReferenceDescription[] references = results.get(i).getReferences();
            for (ReferenceDescription reference : references == null ? new ReferenceDescription[0] : references) {
                if ("EngineeringUnits".equals(reference.getBrowseName().getName())) {
                    owners.add(i);
                    wanted.add(new ReadValueId(reference.getNodeId().toNodeIdOrThrow(client.getNamespaceTable()), AttributeId.Value.uid(), null, QualifiedName.NULL_VALUE));
                }
            }
        }
        Map<Integer, String> units = new HashMap<>();
        if (!wanted.isEmpty()) {
            DataValue[] values = client.read(0, TimestampsToReturn.Neither, wanted).getResults();
            for (int i = 0; i < values.length; i++) {
                if (values[i].getValue().getValue() instanceof ExtensionObject object
                        && object.decode(client.getStaticEncodingContext()) instanceof EUInformation unit && unit.getDisplayName().getText() != null) {
                    units.put(owners.get(i), unit.getDisplayName().getText());
                }
            }
        }
        return units;
    }
}
