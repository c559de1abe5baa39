"""Divisions of the International Standard Industrial Classification, revision 4,
with short titles.
"""

DIVISIONS: dict[str, str] = {
    line[:2]: line[3:]
    for line in """\
01 Crops and animals
02 Forestry
03 Fishing
05 Coal mining
06 Oil and gas extraction
07 Metal ores
08 Quarrying
09 Mining services
10 Food
11 Beverages
12 Tobacco
13 Textiles
14 Apparel
15 Leather
16 Wood
17 Paper
18 Printing
19 Refining
20 Chemicals
21 Pharmaceuticals
22 Rubber and plastics
23 Glass and ceramics
24 Basic metals
25 Metal products
26 Electronics and optics
27 Electrical equipment
28 Machinery
29 Motor vehicles
30 Other transport equipment
31 Furniture
32 Other manufacturing
33 Repair of machinery
35 Electricity and gas
36 Water supply
37 Sewerage
38 Waste
39 Remediation
41 Buildings
42 Civil engineering
43 Specialised construction
45 Motor trade
46 Wholesale
47 Retail
49 Land transport
50 Water transport
51 Air transport
52 Warehousing
53 Post
55 Accommodation
56 Restaurants
58 Publishing
59 Film and music
60 Broadcasting
61 Telecommunications
62 Computer programming
63 Information services
64 Banking and finance
65 Insurance
66 Financial services
68 Real estate
69 Law and accounting
70 Head offices
71 Engineering
72 Research
73 Advertising
74 Other professional services
75 Veterinary
77 Renting
78 Employment services
79 Travel
80 Security
81 Building services
82 Office support
84 Public administration
85 Education
86 Health
87 Residential care
88 Social work
90 Arts
91 Libraries and museums
92 Gambling
93 Sports
94 Membership organisations
95 Repair of goods
96 Personal services
97 Households as employers
98 Households for own use
99 International bodies""".splitlines()
}
