"""Words that companies' names are written with in several ways, or that distinguish no company."""

# One spelling for words that people shorten: the word, and its other spellings.
_SPELLINGS = """
international=intl,intnl,int national=natl manufacturing=mfg manufacturers=mfrs
technology=tech,technologies,techs holding=hldg,hldgs,holdings group=grp,gp services=svc,svcs,service
industries=inds,ind,industry,industrial brothers=bros associates=assoc association=assn department=dept
distribution=dist electric=elec,electrical engineering=eng,engr equipment=eqpt,equip financial=fin,finl
insurance=ins,insur investment=inv,invs,investments laboratories=labs,lab management=mgmt,mgt
market=mkt,mkts,markets pharmaceuticals=pharma,pharm products=prod,prods,product properties=prop,props,ppty
railway=rly resources=res,resource shipping=ship,shpg steel=stl stores=str,strs,store systems=sys,system
telecommunications=tel,telecom transport=trans,transp utilities=util,utils works=wks warehouse=whse
american=amer general=gen,genl chemicals=chem,chems,chemical instruments=instr,instrs,instrument
cooperative=coop st=saint mount=mt harbour=harbor and=n,u,und,et,y,e,plus
"""

# Legal forms of many countries, beside those that cleanco knows.
_FORMS = """
ab ad ag aktiebolag aktiengesellschaft aktieselskab allmennaksjeselskap aps as asa berhad bhd bv co company
corp corporation dd doo gmbh inc incorporated jsc kg kgaa kk limited llc llp lp ltd nv nyrt ojsc osakeyhtio oy
oyj pjsc plc pt pte pty sa sarl sas sdn se spa srl tbk the zrt
"""
_FORMS_OF_SEVERAL_WORDS = """
kabushiki kaisha
limited liability company
naamloze vennootschap
public limited company
sociedad anonima
societa per azioni
societe anonyme
"""

_SHARE_CLASSES = """
adr ads bearer cl class cmn com common depositary dr gdr inh new npv ord ordinary pref preference preferred
receipt receipts reg registered share shares shs spon sponsored stock unit units
"""

SAME: dict[str, str] = {
    other: word
    for entry in _SPELLINGS.split()
    for word, _, others in [entry.partition("=")]
    for other in others.split(",")
}
FORMS: frozenset[tuple[str, ...]] = frozenset(
    [(form,) for form in _FORMS.split()]
    + [tuple(form.split()) for form in _FORMS_OF_SEVERAL_WORDS.strip().splitlines()]
)
SHARE_CLASSES: frozenset[str] = frozenset(_SHARE_CLASSES.split())
# Forms that some countries write in front.
LEADING: frozenset[str] = frozenset(["the", "pt", "ab", "sa", "oy", "as", "jsc", "pjsc", "ojsc"])
