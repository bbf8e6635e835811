-- Moinhos de maré do Sapal Velho
-- UTF-8, vírgula decimal, campos separados por ponto e vírgula
/* As datas são escritas dd/mm/aaaa. */
CREATE TABLE `roda` (
  `codigo` char(2) NOT NULL,
  `nome` varchar(30) NOT NULL,
  PRIMARY KEY (`codigo`)
) ENGINE=InnoDB;
INSERT INTO `roda` (`codigo`,`nome`) VALUES ('RH','roda horizontal'),('RV','roda vertical'),('TB','turbina');
CREATE TABLE `moagem` (
  `id` int unsigned NOT NULL AUTO_INCREMENT,
  `moinho` char(4) NOT NULL COMMENT 'Número do moinho, zeros à esquerda',
  `dia` date NOT NULL COMMENT 'Dia da moagem',
  `mare` enum('VIVA','MORTA') NOT NULL,
  `roda` char(2) NOT NULL,
  `cereal` varchar(20) DEFAULT NULL COMMENT 'Cereal moído',
  `peso` decimal(7,2) DEFAULT NULL COMMENT 'Peso em quilogramas',
  `horas` decimal(4,1) NOT NULL CHECK (`horas` > 0 AND `horas` <= 12),
  `parado` tinyint(1) NOT NULL DEFAULT 0,
  `motivo` varchar(80) DEFAULT NULL COMMENT 'Obrigatório se parado = 1',
  PRIMARY KEY (`id`),
  UNIQUE KEY `u` (`moinho`,`dia`,`mare`),
  CONSTRAINT `fk` FOREIGN KEY (`roda`) REFERENCES `roda` (`codigo`)
);
