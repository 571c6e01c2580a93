package history

// topic is what a chat can be about. In its texts, | separates wordings of the same,
// and names in braces are filled in.
type topic struct {
	name       string
	department int
	page       page
	weight     float64
	storm      float64 // how much more often on a day of storm
	tags       []string
	outcome    string
	soldOf     float64 // share of answered chats that end in a sale
	cents      [2]int64
	summary    string
	ask        string
	turns      []turn
}

// turn is what the operator answers, and what the visitor says to that; an empty
// visitor's part ends the exchange.
type turn struct{ team, visitor string }

type page struct{ path, title string }

var (
	timetable = page{"/timetable", "Timetable"}
	fares     = page{"/fares", "Fares"}
	booking   = page{"/book", "Book a crossing"}
	paying    = page{"/book/pay", "Pay for your trip"}
	mine      = page{"/my-booking", "My booking"}
	freight   = page{"/freight", "Freight"}
	animals   = page{"/animals", "Travelling with animals"}
	delays    = page{"/disruptions", "Disruptions"}
	help      = page{"/help", "Help"}
	home      = page{"/", "Kelpwick Ferries"}
)

// The departments by their place in Config.Departments.
const (
	Help = iota
	Bookings
	Freight
)

var topics = []topic{
	{name: "group", department: Bookings, page: fares, weight: 7, tags: []string{"group", "minibus"}, outcome: "Sold", soldOf: 0.45, cents: [2]int64{24000, 92000},
		summary: "Group of {n} to {port} and back",
		ask:     "We are {n} people and would like to go to {port} with a minibus. Is there a group fare?|Do you have a group price for {n} of us to {port}?|hi, group of {n} plus minibus ({len} m) {port} on {day}, what does it cost|I am organising a trip for our choir, {n} people, from {port2} to {port}. Can we travel together?",
		turns: []turn{
			{"From ten people on, the group fare is 15 % lower. The minibus pays by its length, €46.00 up to 7 m.|Yes: for {n} people the group fare applies, that is 15 % less for each. How long is the minibus?", "It is {len} m long.|{len} metres with the tow bar|no minibus after all, just us"},
			{"Then it comes to {price} there and back. Shall I hold the places until tomorrow at 18:00?|There is room on {ship} at {time}, {price} in all. We can hold your seats for 24 hours, no charge. Shall I?", "Yes please, in the name of {name}.|please hold them|Let me ask the others first and come back to you.|that is more than I thought, thank you anyway"},
			{"Done. You get the quote by email in a minute.|They are held under {booking}. Have a calm crossing!", "Lovely, thank you!|thanks|Perfect, you have been a great help."},
		}},
	{name: "animals", department: Help, page: animals, weight: 8, tags: []string{"animals"}, outcome: "Answered",
		summary: "Dog on {ship}",
		ask:     "Can my dog come along on {ship}?|Travelling with two cats to {port}, is there a quiet place for them?|dogs allowed in the lounge??|Is it possible to stay with our dog during the crossing from {port2}?",
		turns: []turn{
			{"On MV Sandpiper dogs travel on a lead in the aft lounge. MV Curlew and MV Dunlin have heated kennels on deck 3.|Yes, dogs travel free of charge. On MV Sandpiper they may sit in the aft lounge, on the other ships there are heated kennels on deck 3.", "She is 40 kg, does that matter?|And does it cost anything?|what about water|Great, thanks"},
			{"Not at all. Please bring a blanket, the floor is steel.|No, dogs travel free of charge. Please bring a blanket and some water.", "Will do, thank you|ok|Wonderful, she will like that."},
		}},
	{name: "lorry", department: Freight, page: freight, weight: 9, tags: []string{"lorry"}, outcome: "Sold", soldOf: 0.55, cents: [2]int64{14000, 48000},
		summary: "Lorry of {len} m to {port}",
		ask:     "Is there room for a {n}-tonne lorry to {port} on {day}?|Need deck space for a lorry, {len} m, {port2} to {port}, {day} first sailing|Freight rate {port2} - {port} for a trailer of {len} m please|We have {n} pallets of fish for {port}, which sailing is the earliest?",
		turns: []turn{
			{"For lorries I need length, weight and what is loaded. Do you have the load papers at hand?|What length and weight, please, and what is loaded?", "{len} m, {n} t, building material|{len} metres, {n} tonnes, chilled fish|Refrigerated trailer, {len} m. It needs power on board."},
			{"The {time} has 14 m of lorry deck left, so you fit: {price}. Shall I book it?|On {ship} at {time} there is room, {price}. Power for cooling is included.", "Please do, on our account|yes book it|Too late for us. Is there nothing earlier?|I have to ask the driver first"},
			{"Booked, {booking}. Please be at gate 4, 45 minutes before the sailing, with the load papers.|It is in the books as {booking}. Gate 4, 45 minutes before, with the load papers.", "Thanks, he will be there|ok thx|Very good."},
		}},
	{name: "dangerous goods", department: Freight, page: freight, weight: 2, tags: []string{"lorry", "dangerous goods"}, outcome: "Answered",
		summary: "Dangerous goods to {port}",
		ask:     "Can we ship gas cylinders to {port}?|Do you take paint and thinner, {n} drums, on {ship}?|question about dangerous goods papers for {port}",
		turns: []turn{
			{"Dangerous goods go on the 05:40 only, without passengers. I need the UN number and the packing group.|They travel on the first sailing, on open deck. Which UN number is it?", "UN 1263, packing group II|UN 1965|I do not have the papers here, I will call the warehouse"},
			{"Thank you. Please send the declaration by noon of the day before, then I put you down for {day}.", "will do|Good, thank you."},
		}},
	{name: "payment", department: Bookings, page: paying, weight: 9, tags: []string{"payment"}, outcome: "Answered",
		summary: "Card seemed charged twice, {booking}",
		ask:     "My card was charged twice|I paid but got no confirmation, booking {booking}|Payment failed at the last step, did you get my money or not?|why are there two payments of {price} on my card???|The page says error after I entered my card",
		turns: []turn{
			{"I am sorry about that. Can you give me the booking number? It starts with KF.|Let me look. What is your booking number, please?", "{booking}|It is {booking}|I have no number, that is the problem. My email is {email}"},
			{"I see one payment and one reservation that your bank lets go of within three days. Nothing is lost, but it looks like two.|There is one payment of {price}; the other is a reservation, and your bank lets go of it within three days.|The payment did not go through, so nothing was taken. You can pay again by the link that I have just sent.", "ah ok, so I do not have to do anything?|thank you, that is a relief|and if it is still there on Friday?"},
			{"Nothing at all. If it is still there on Friday, write to us here and we sort it out with the bank.|No need to do anything. Write to us again if it stays.", "thanks!|ok, thank you for looking|Very kind."},
		}},
	{name: "change", department: Bookings, page: mine, weight: 10, tags: []string{"booking", "change"}, outcome: "Answered",
		summary: "{booking} moved to {time}",
		ask:     "I need to change my booking {booking} to {day}|Can I move {booking} to a later sailing?|Hello, we cannot make the {time}, is a later ship possible?|How do I add a second car to {booking}?|wrong date booked, please help, {booking}",
		turns: []turn{
			{"You can change the sailing free of charge until two hours before. Which one would you like instead?|Of course, changes are free of charge until two hours before. Which sailing shall it be?", "The {time} on {day}|any sailing on {day} in the morning|the next one please"},
			{"Done: {ship} at {time}, the number stays {booking}.|I have moved you to {time} on {ship}. The new ticket is in your mail.", "Great, that was quick|thank you so much|ok"},
		}},
	{name: "cancel", department: Bookings, page: mine, weight: 5, storm: 2, tags: []string{"booking", "refund"}, outcome: "Answered",
		summary: "{booking} cancelled, refund of {price}",
		ask:     "I want to cancel {booking}, do I get my money back?|Refund for {booking} please, we are ill|How long does a refund take?|still waiting for my refund of {price}!!",
		turns: []turn{
			{"Until a day before you get everything back, after that half of it. Shall I cancel it?|I am sorry to hear that. Up to a day before the sailing you get the whole fare back. Shall I cancel {booking}?", "Yes please|yes, cancel it|No, then I would rather move it"},
			{"It is cancelled, and {price} go back to your card within five working days.|Done. The money is back on your card within five working days.", "Thank you|finally. thanks|ok thank you, bye"},
		}},
	{name: "timetable", department: Help, page: timetable, weight: 11, tags: []string{"timetable"}, outcome: "Answered",
		summary: "Last sailing from {port}",
		ask:     "what time is the last boat back from {port} on a {day}|When does the first ferry to {port} leave on {day}?|Is there a sailing from {port2} to {port} around {time}?|Does the winter timetable start this week?|how long is the crossing to {port}",
		turns: []turn{
			{"The last one from {port} leaves at {time}.|On {day} the last sailing is at {time} with {ship}.|{ship} leaves at {time} and takes an hour and ten minutes.", "And is there a bus at the other end?|perfect thanks|Good to know. And on foot, how early do I have to be there?"},
			{"At Northholm line 7 waits for the ferry until 22:15. At Little Fenna there is none after six, but a taxi on call.|On foot 20 minutes before is enough, with a car 40 minutes.", "Thank you|great|ok, cheers"},
		}},
	{name: "check-in", department: Help, page: help, weight: 6, tags: []string{"check-in"}, outcome: "Answered",
		summary: "Check-in times",
		ask:     "How early do we have to be there with a car?|Where is gate {n} in {port2}?|When does check-in close for the {time}?|can I check in online",
		turns: []turn{
			{"With a car please be there 40 minutes before, on foot 20 minutes.|Check-in closes 20 minutes before; with a car please come 40 minutes before.", "And with a caravan?|thanks!|We are late, 15 minutes before. Will you let us on?"},
			{"The same, but please use gate 3.|Come straight to gate 2, I tell them that you are on your way.", "Thank you!!|ok|Brilliant."},
		}},
	{name: "weather", department: Help, page: delays, weight: 5, storm: 14, tags: []string{"weather", "delay"}, outcome: "Answered",
		summary: "Whether the {time} sails",
		ask:     "Is the {time} sailing still going with this wind?|is {ship} delayed?|We are standing in {port2} and nobody tells us anything. Does it sail or not?|Storm warning for {day}, what happens to our booking {booking}?|Will the ferry to {port} sail tomorrow?",
		turns: []turn{
			{"It is, and on time so far. The captain decides three hours before.|The captain decides three hours before. If we do not sail you travel later with the same ticket, or get your money back.|{ship} is 50 minutes late. I am sorry that nobody told you.", "And if not?|ok, and a hotel?|this is really annoying|Thanks for the quick answer"},
			{"Then you travel at {time} with the same ticket, or get your money back, as you like.|If you have to stay overnight we pay for a room. Please keep the receipt.", "ok thank you|alright, we will wait|Thank you, that helps."},
		}},
	{name: "access", department: Help, page: help, weight: 4, tags: []string{"access"}, outcome: "Answered",
		summary: "Wheelchair on {ship}",
		ask:     "My father uses a wheelchair. Is there a lift on {ship}?|Is there help for a blind traveller on {day}?|We have an electric wheelchair, 74 cm wide, is that a problem?",
		turns: []turn{
			{"There is a lift midships from the car deck; the narrowest door is 82 cm wide. I can put you down for assistance.|Yes, all ships have a lift midships, the narrowest door is 82 cm wide. Shall I put you down for assistance?", "Yes, please. {time} on {day}, {booking}|that would be wonderful|Do we need to ring ahead?"},
			{"It is noted. Be at gate 2 by then, and the crew will park you beside the lift.|No need to ring: I have put you down. Please be at gate 2 half an hour before.", "You are wonderful|Thank you very much|ok good"},
		}},
	{name: "lost", department: Help, page: help, weight: 4, tags: []string{"lost property"}, outcome: "Sent on to others",
		summary: "Lost on the {time}, asked the crew",
		ask:     "I left a blue jacket on the {time} yesterday, near the coffee bar|Lost my phone on {ship}, black with a cracked corner|Did anybody find a child's rucksack with a fox on it?|we forgot our keys on board!",
		turns: []turn{
			{"What is lost on board comes to the Kelpwick desk, open from 7 to 21. What does it look like?|Let me ask the crew of {ship}. One moment.", "it has a train ticket in the pocket|of course|It is red, about the size of a hand."},
			{"It is here. You can fetch it at the Kelpwick desk from 7 to 21.|Nobody has found it yet. I have put it on the list and write to you when it turns up.", "Thank you so much!|ok, please let me know at {email}|great"},
		}},
	{name: "vehicle", department: Bookings, page: booking, weight: 8, tags: []string{"vehicle"}, outcome: "Sold", soldOf: 0.35, cents: [2]int64{6000, 32000},
		summary: "Car with caravan, {len} m",
		ask:     "Does a car with a roof box fit? We are 2.2 m high|How do I book a caravan of {len} m to {port}?|price for car and 2 adults {port2} - {port} on {day}?|Is there still space for a motorhome on {day}, {time}?|Can I bring my bicycle?",
		turns: []turn{
			{"Yes: up to 2.4 m counts as low. For {port2} to {port} on {day} it is {price}.|There is room on {ship} at {time}. With two adults it comes to {price}.", "Can you book it for me?|is it cheaper on another day?|And can we take the bicycles too?|ok thank you, I will think about it"},
			{"I can: here is the link with everything filled in.|The day after is {price}.|We can hold the vehicle space, as long as you pay by 18:00 the day before.", "Paid, thank you!|thanks|Great service."},
		}},
	{name: "cabins", department: Bookings, page: booking, weight: 4, tags: []string{"cabin"}, outcome: "Sold", soldOf: 0.4, cents: [2]int64{5000, 15000},
		summary: "Cabin on the night sailing",
		ask:     "Are there cabins with a window on the night sailing?|Can I add a cabin to {booking}?|how many beds does a family cabin have",
		turns: []turn{
			{"Two outside cabins are left for {day}, {price} each, with a shower.|A family cabin has four beds, {price}.", "I take one|ok please add it to {booking}|too expensive, we stay in the chairs"},
			{"It is added. The key is at the desk on deck 5.", "thank you|Perfect"},
		}},
	{name: "children", department: Help, page: fares, weight: 3, tags: []string{"children", "fares"}, outcome: "Answered",
		summary: "Fares of children",
		ask:     "What do children pay?|Is my daughter (14) still a child?|Do babies need a ticket",
		turns: []turn{
			{"Under four they travel free, under fifteen at half the fare.|Children under four travel free of charge, and under fifteen at half the fare.", "thanks|And is there a play area?|ok so {price} for all of us?"},
			{"On {ship} there is one on deck 4, beside the café.|That is right.", "They will love that|Thank you!"},
		}},
	{name: "website", department: Help, page: home, weight: 3, tags: []string{"website"}, outcome: "Answered",
		summary: "Trouble with the site",
		ask:     "Your site does not let me choose a date|I cannot log in to my booking|The form says my email is wrong but it is not",
		turns: []turn{
			{"I am sorry. Which browser do you use?|Please try it in another window once. Does it still say so?", "on my phone|it works now, strange|still the same"},
			{"Thank you, I pass it on to our technicians and book it for you meanwhile.", "ok thanks|Kind of you"},
		}},
	{name: "complaint", department: Help, page: help, weight: 2, storm: 3, tags: []string{"complaint"}, outcome: "Sent on to others",
		summary: "Complaint about {ship}",
		ask:     "The toilets on {ship} were in a terrible state|I have been treated very rudely at gate {n}|We waited for three hours and got nothing, not even a coffee",
		turns: []turn{
			{"That should not have happened, and I am sorry. Which sailing was it?|I am sorry to hear this. May I have your booking number, so that the right people look into it?", "{booking}|{day}, the {time}|does it matter?"},
			{"Thank you. I have passed it to the harbour master, who writes to you within two days.", "I hope so|Thank you for listening|fine"},
		}},
}

// afterHours are messages that are left while nobody is there.
var afterHours = []string{
	"Please call me about {booking}.", "Is there a sailing to {port} on {day}? Please answer by email.", "I would like an offer for {n} people to {port}.",
	"Lost a scarf on {ship}, grey with stripes.", "Invoice for {booking} please, to our company.",
}

// notes are what operators write for each other.
var notes = []string{
	"Deck B is fine for {len} m, I asked the loading master.", "Has travelled with us before, very friendly.", "Bank case, same as last week: reservation, not a payment.",
	"Please keep 7 m free on {ship}.", "Called the crew, they look for it.", "Was upset about the delay, handle with care.",
}

// handOns are what is said to whoever gets a chat, and by them to the visitor.
var handOns = []struct{ note, hello string }{
	{"needs a quote", "Hello {first}, I have this from {op}. Let me make you the offer."},
	{"knows the freight deck better than I", "Good day {first}, {op} asked me to take over. I have read all of it."},
	{"asks for a change of {booking}", "Hello {first}, I take over from {op} and have {booking} in front of me."},
}

// said are the words with which chats are rated, by rating.
var said = map[int][]string{
	1: {"Nobody could help me.", "Waited forever and then no answer.", "I was sent from one to the other."},
	2: {"It took a while until somebody was there.", "The answer was not what I had asked."},
	3: {"Helpful, but I had to ask twice.", "Fine."},
	4: {"Clear answer.", "Friendly and quick enough.", "Good, thank you."},
	5: {"Very friendly, and the group fare saved us a lot.", "Thank you!", "Best service on this coast.", "So quick!", "{op} was wonderful."},
}

var (
	ports = []string{"Aldermouth", "Sandry", "Northholm", "Little Fenna", "Isle of Brae", "Kelpwick"}
	ships = []string{"MV Curlew", "MV Sandpiper", "MV Dunlin"}
	times = []string{"05:40", "06:10", "07:30", "09:30", "11:20", "12:40", "14:10", "15:50", "17:20", "18:40", "20:15", "21:45"}
	days  = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "tomorrow", "Easter Monday", "the 24th"}

	firstNames = []string{"Wren", "Oskar", "Petra", "Hollis", "Philippa", "Tam", "Ansa", "Mirren", "Jory", "Lio", "Noor", "Elspet", "Ruben", "Sanna", "Kit", "Marit", "Yusra", "Bo", "Agda", "Piet", "Solveig", "Ivo", "Linnea", "Casper", "Rhona", "Emre", "Tilda", "Anselm", "Freja", "Malo"}
	lastNames  = []string{"Castellane", "Brindle", "Quill", "Pryde", "Grange", "Arkwright", "Ferrow", "Tolliver", "Penhale", "Marchetti", "Haddan", "Lunde", "Sørvig", "Åkerblom", "Vestergård", "Halloway", "Dunmore", "Kessler", "Ostrander", "Pellerin", "Røst", "Winterbourne", "Yardley", "Zandt", "Thorsby", "Merle", "Østrup", "Fairlie"}

	countries = []weighted[string]{{"DK", 30}, {"DE", 22}, {"SE", 14}, {"NO", 11}, {"GB", 9}, {"NL", 6}, {"FR", 3}, {"PL", 3}, {"", 2}}
	sources   = []weighted[string]{{"search", 44}, {"direct", 32}, {"referral", 10}, {"campaign", 9}, {"email", 5}}
)

var languageOf = map[string]string{"DK": "da", "DE": "de", "SE": "sv", "NO": "no", "GB": "en", "NL": "nl", "FR": "fr", "PL": "pl", "": "en"}
