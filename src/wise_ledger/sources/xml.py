"""XML from a source: nothing is resolved or fetched, and no document type is declared,
whatever its encoding.
"""

from lxml import etree

from wise_ledger.sources.errors import damaged


def read_xml(raw: bytes, where: str, what: str) -> etree._Element:
    """The root of a document, which `what` names in words; raises `SourceDamaged`."""
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False
    )
    try:
        root = etree.fromstring(raw, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise damaged(where, raw[:80], f"the {what} is no XML ({error})") from None
    declared = root.getroottree().docinfo
    if declared.doctype or declared.internalDTD is not None or declared.externalDTD is not None:
        raise damaged(
            where, raw[:80], f"the {what} declares a document type, which none of ours needs"
        )
    return root
