package flow

import "slices"

// Sentences are what the bot says of its own accord, in one language.
type Sentences struct {
	Yes, No    string            // what is answered to "did this help?"
	Found      string            // above what was looked up
	Told       string            // above an answer that is told word for word
	Weak       string            // above what fits only weakly
	Meant      string            // above the choices that may have been meant
	None       string            // the choice that none was meant
	Helped     string            // asked again, after other words
	Address    string            // by which mail address the customer is known
	NoAddress  string            // that was none
	Skip       string            // the word that skips
	CanSkip    string            // said after a question that may be skipped
	Busy       string            // a person was asked for, and everybody has their hands full
	Closed     string            // a person was asked for, and nobody is there
	More       string            // the script has ended
	Stuck      string            // something went wrong in the script
	AskAgain   map[Wants]string  // to what is no answer
	AskFor     map[string]string // facts that are asked for before a person is
	Takes      string            // of a request form; %d minutes
	AskForFact string            // any other such fact; %s is its name
	Marks      []string          // from 1 to 5
}

// Yes, No and FoundText are the English ones: what kept conversations of older versions hold.
const (
	Yes       = "Yes, that helped"
	No        = "No, not yet"
	FoundText = "This is what I found."
)

var sentences = map[string]*Sentences{
	"en": {
		Yes: Yes, No: No, Found: FoundText,
		Told:   "Our articles say:",
		Weak:   "I am not sure that this fits:",
		Meant:  "Did you mean one of these?",
		None:   "None of these",
		Helped: "Did that help?",
		Address: "The answer comes here, on this page. By which mail address do we know you? " +
			"Type it, or “skip”.",
		NoAddress: "That does not read like a mail address. Type it again, such as name@post.example, or “skip”.",
		Skip:      "skip", CanSkip: "You can also type “skip”.",
		Busy:   "Everybody is busy just now. You are in the queue, and the first who is free answers here.",
		Closed: "Nobody is there just now. Write down what you would like to know, and a person answers.",
		More:   "Is there anything else? Just type it.",
		Stuck:  "I have lost the thread, sorry. Tell me in your own words what you need.",
		AskAgain: map[Wants]string{
			WantsText: "Please type an answer.", WantsMail: "That does not read like a mail address, " +
				"such as name@post.example. Please type it again.",
			WantsPhone:     "That does not read like a phone number. Please type it again, digits and all.",
			WantsNumber:    "That is not a number. Please type it in digits, such as 12 or 12.5.",
			WantsDate:      "That is not a day that I can read. Please type it such as 2026-03-31 or 31.3.2026.",
			WantsReference: "That does not look right. Please type it just as it is written there.",
			WantsChoice:    "Please choose one of these.",
		},
		AskFor: map[string]string{
			"name": "What is your name?", "mail": "By which mail address can we reach you?",
			"phone": "By which phone number can we reach you?", "number": "What is your customer number?",
		},
		Takes:      "It takes about %d min.",
		AskForFact: "Before I pass you on: what is your %s?",
		Marks:      []string{"1 – bad", "2", "3", "4", "5 – very good"},
	},
	"de": {
		Yes: "Ja, das hat geholfen", No: "Nein, noch nicht", Found: "Das habe ich gefunden.",
		Told:   "In unseren Artikeln steht:",
		Weak:   "Ich bin nicht sicher, ob das passt:",
		Meant:  "Meinten Sie eines davon?",
		None:   "Nichts davon",
		Helped: "Hat das geholfen?",
		Address: "Die Antwort kommt hier, auf dieser Seite. Unter welcher Mailadresse kennen wir Sie? " +
			"Schreiben Sie sie, oder „weiter“.",
		NoAddress: "Das liest sich nicht wie eine Mailadresse. Schreiben Sie sie noch einmal, etwa " +
			"name@post.example, oder „weiter“.",
		Skip: "weiter", CanSkip: "Sie können auch „weiter“ schreiben.",
		Busy: "Gerade sind alle im Gespräch. Sie stehen in der Reihe, und wer zuerst frei ist, antwortet hier.",
		Closed: "Gerade ist niemand da. Schreiben Sie auf, was Sie wissen möchten, und ein Mensch " +
			"antwortet Ihnen.",
		More:  "Gibt es noch etwas? Schreiben Sie es einfach.",
		Stuck: "Ich habe den Faden verloren, Verzeihung. Sagen Sie mir in Ihren Worten, was Sie brauchen.",
		AskAgain: map[Wants]string{
			WantsText: "Bitte schreiben Sie eine Antwort.", WantsMail: "Das liest sich nicht wie eine Mailadresse, " +
				"etwa name@post.example. Bitte noch einmal.",
			WantsPhone:     "Das liest sich nicht wie eine Telefonnummer. Bitte noch einmal, mit allen Ziffern.",
			WantsNumber:    "Das ist keine Zahl. Bitte in Ziffern, etwa 12 oder 12,5.",
			WantsDate:      "Diesen Tag kann ich nicht lesen. Bitte schreiben Sie ihn etwa so: 31.3.2026.",
			WantsReference: "Das sieht nicht richtig aus. Bitte schreiben Sie es genau so, wie es dort steht.",
			WantsChoice:    "Bitte wählen Sie eines davon.",
		},
		AskFor: map[string]string{
			"name": "Wie heißen Sie?", "mail": "Unter welcher Mailadresse erreichen wir Sie?",
			"phone": "Unter welcher Telefonnummer erreichen wir Sie?", "number": "Wie lautet Ihre Kundennummer?",
		},
		Takes:      "Das dauert etwa %d min.",
		AskForFact: "Bevor ich Sie weitergebe: %s?",
		Marks:      []string{"1 – schlecht", "2", "3", "4", "5 – sehr gut"},
	},
	"fr": {
		Yes: "Oui, cela m’a aidé", No: "Non, pas encore", Found: "Voici ce que j’ai trouvé.",
		Told:   "Voici ce que disent nos articles :",
		Weak:   "Je ne suis pas sûr que cela convienne :",
		Meant:  "Vouliez-vous dire l’un de ceux-ci ?",
		None:   "Aucun de ceux-ci",
		Helped: "Cela vous a-t-il aidé ?",
		Address: "La réponse arrive ici, sur cette page. Sous quelle adresse électronique vous connaissons-nous ? " +
			"Écrivez-la, ou « passer ».",
		NoAddress: "Cela ne ressemble pas à une adresse électronique. Écrivez-la encore, par exemple " +
			"nom@post.example, ou « passer ».",
		Skip: "passer", CanSkip: "Vous pouvez aussi écrire « passer ».",
		Busy: "Tout le monde est occupé en ce moment. Vous êtes dans la file, et la première personne libre " +
			"répond ici.",
		Closed: "Il n’y a personne en ce moment. Écrivez ce que vous voulez savoir, et une personne vous répondra.",
		More:   "Y a-t-il autre chose ? Écrivez-le simplement.",
		Stuck:  "J’ai perdu le fil, pardon. Dites-moi avec vos mots ce qu’il vous faut.",
		AskAgain: map[Wants]string{
			WantsText: "Écrivez une réponse, s’il vous plaît.",
			WantsMail: "Cela ne ressemble pas à une adresse " +
				"électronique, par exemple nom@post.example. Écrivez-la encore, s’il vous plaît.",
			WantsPhone:     "Cela ne ressemble pas à un numéro de téléphone. Écrivez-le encore, avec tous les chiffres.",
			WantsNumber:    "Ce n’est pas un nombre. Écrivez-le en chiffres, par exemple 12 ou 12,5.",
			WantsDate:      "Je ne peux pas lire cette date. Écrivez-la par exemple ainsi : 31/3/2026.",
			WantsReference: "Cela ne semble pas juste. Écrivez-le exactement comme il est imprimé.",
			WantsChoice:    "Choisissez l’un de ceux-ci, s’il vous plaît.",
		},
		AskFor: map[string]string{
			"name": "Comment vous appelez-vous ?", "mail": "À quelle adresse électronique pouvons-nous vous joindre ?",
			"phone": "À quel numéro pouvons-nous vous joindre ?", "number": "Quel est votre numéro de client ?",
		},
		Takes:      "Cela prend environ %d min.",
		AskForFact: "Avant de vous passer quelqu’un : %s ?",
		Marks:      []string{"1 – mauvais", "2", "3", "4", "5 – très bon"},
	},
}

// In gives the bot's own sentences in a language, in English where it has none.
func In(language string) *Sentences {
	if s, ok := sentences[language]; ok {
		return s
	}
	return sentences["en"]
}

// Verdicts lists the answers to "did this help?" in every language: words that are nobody's own.
func Verdicts() []string {
	var list []string
	for _, s := range sentences {
		list = append(list, s.Yes, s.No)
	}
	slices.Sort(list)
	return list
}
